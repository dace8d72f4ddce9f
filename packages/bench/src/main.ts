import { access, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import pino from 'pino';
import { startBench } from './bench.js';
import { ContentsLibrary } from './contents/library.js';
import { SMALL_SIZE } from './contents/sizes.js';
import { demoDevices } from './demo-devices.js';
import { Drives } from './drives.js';

/** The bench process: `node dist/main.js --port 4681 --data DIR [--demo full|small|none] …`. */
const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '4681' },
    data: { type: 'string' },
    demo: { type: 'string', default: 'none' },
    berths: { type: 'string', default: '4' },
    rate: { type: 'string' },
    'install-ms': { type: 'string', default: '6000' },
    /** `waits`: what the devices ask is pressed on the tray; `confirms`: it is answered at once. */
    owner: { type: 'string', default: 'waits' },
    /** Only these of the demo's devices. */
    only: { type: 'string' },
    /** Folder in which contents stay for the next bench that has the same devices; none where not said. */
    library: { type: 'string' },
    /** Folder in which drives appear, and one in which those lie that are not plugged in. */
    drives: { type: 'string' },
    drawer: { type: 'string' },
  },
});

const log = pino({ base: { process: 'bench' } });
const token = process.env.CELLAR_LINK_TOKEN;
const folder = values.data;
if (!token || !folder) {
  log.fatal('the bench needs --data DIR and CELLAR_LINK_TOKEN');
  process.exit(2);
}

// Whoever keeps this process running ends one that has nothing to say for a minute; making contents may take longer.
setInterval(() => {
  if (process.connected) process.send?.({ alive: true });
}, 5000).unref();

const only = values.only?.split(',');
const devices =
  values.demo === 'none'
    ? []
    : demoDevices(join(folder, 'devices')).filter(
        ({ definition }) => only?.includes(definition.id) ?? true,
      );
const library = new ContentsLibrary(values.library ?? null);
for (const { definition, condition, seed, size } of devices) {
  if (!seed || !condition.contents) continue;
  const done = join(folder, 'devices', `${definition.id}.generated`);
  const there = await access(done).then(
    () => true,
    () => false,
  );
  if (there) continue;
  log.info({ device: definition.id }, 'making the contents of a stand-in device');
  await library.fill(condition.contents, seed, definition, {
    ...(values.demo === 'small' ? SMALL_SIZE : size),
  });
  // Kept apart from the contents, so that an erased stand-in stays erased.
  await writeFile(done, '');
}

const bench = await startBench({
  port: Number(values.port),
  token,
  folder,
  berths: Number(values.berths),
  timing: {
    installMs: Number(values['install-ms']),
    eraseMs: Number(values['install-ms']) / 3,
    downloadMs: Number(values['install-ms']) / 3,
    ownerConfirms: values.owner === 'confirms',
  },
  devices,
  ...(values.drives && values.drawer ? { drives: new Drives(values.drives, values.drawer) } : {}),
  faults: { rate: values.rate ? Number(values.rate) : null },
});
log.info({ port: bench.port }, 'bench is ready');
process.send?.({ ready: true, port: bench.port });

const stop = () => {
  void bench.stop().then(() => process.exit(0));
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
// Whoever started this process is gone: so is the reason to run.
process.on('disconnect', stop);
