import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import type { StoreAddress } from '@bright-cellar/archive';
import { startBox } from '@bright-cellar/rack-stand-ins';
import { changeData, makeData } from './make-data.js';
import { Pair } from './pair.js';
import { cellarIn, prepare } from './place.js';
import { bytesOf, table } from './report.js';
import { shell } from './run-process.js';

/**
 * `npm run bench:copy`: a copy of an archive that was read back, beside `cp`, `sync` and `sha512sum` over the same bytes;
 * that copy brought up to date, beside its first making; and one onto a box over SFTP, beside the `sftp` command and the same
 * check.
 */
const MEMORY_AIM = 200e6;
const { values } = parseArgs({
  options: {
    size: { type: 'string', default: '2G' },
    rounds: { type: 'string', default: '3' },
    folder: { type: 'string', default: tmpdir() },
  },
});
const size = bytesOf(values.size);
const rounds = Number(values.rounds);

const folder = mkdtempSync(join(values.folder, 'cellar-copy-'));
try {
  const { password } = prepare(folder);
  const data = join(folder, 'data');
  const made = makeData(data, size);
  const { cellar, peakBytes } = cellarIn(folder);
  const pack = () => cellar('pack', 'data', '--archive', 'archive', '--password-file', password);
  const copy = () => cellar('copy', 'archive', '--to', 'copy');
  const first = new Pair('another copy, read back', 'cp -r; sync; sha512sum -c', 1.2);
  const update = new Pair('brought up to date, 2 % new', 'its first making', 0.1);
  const box = await startBox();
  const address: StoreAddress = {
    ...{ kind: 'sftp', host: box.host, port: box.port, user: box.user, hostKey: box.hostKey },
    ...{ path: join(box.folder, 'ours'), workRoot: join(folder, 'work') },
    login: { kind: 'key', privateKey: box.privateKey },
  };
  writeFileSync(join(folder, 'box.json'), JSON.stringify(address), { mode: 0o600 });
  const overSftp = new Pair(
    'another copy over SFTP, read back',
    'sftp put, get; sha512sum -c',
    1.3,
  );
  const ours = fileURLToPath(new URL('copy-to-box.js', import.meta.url));
  const sftp = `sftp -q -P ${box.port} -i ${box.keyFile} -o StrictHostKeyChecking=no -o UserKnownHostsFile=/dev/null -b - ${box.user}@${box.host}`;
  await pack();
  delete peakBytes.pack;
  for (let round = 0; round < rounds; round++) {
    for (const name of ['plain', 'copy']) {
      rmSync(join(folder, name), { recursive: true, force: true });
    }
    const theirs = await shell(
      'cp -r archive plain && sync && cd plain && sha512sum -c --quiet manifest-sha512.txt',
      folder,
    );
    rmSync(join(folder, 'plain'), { recursive: true });
    const whole = await copy();
    first.add(theirs, whole);
    await shell(`mkdir -p ${box.folder}/ours ${box.folder}/theirs back`, folder);
    const plain = await shell(
      `printf 'put -r archive ${box.folder}/theirs/\nget -r ${box.folder}/theirs/archive back/\n' | ${sftp} > /dev/null 2>&1 && cd back/archive && sha512sum -c --quiet manifest-sha512.txt`,
      folder,
    );
    const sent = await shell(`exec ${process.execPath} ${ours} archive box.json`, folder);
    peakBytes['copy over SFTP'] = Math.max(peakBytes['copy over SFTP'] ?? 0, sent.peakBytes);
    overSftp.add(plain, sent);
    await shell(`rm -rf ${box.folder}/ours ${box.folder}/theirs back`, folder);
    changeData(data, size, made, round);
    await pack();
    update.add(whole, await copy());
  }
  delete peakBytes.pack;
  const measures = [first.result(), update.result(), overSftp.result()];
  box.stop();
  process.stdout.write(table({ size, rounds, measures, peakBytes }, MEMORY_AIM));
} finally {
  rmSync(folder, { recursive: true, force: true });
}
