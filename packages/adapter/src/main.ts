import { parseArgs } from 'node:util';
import { LINK_PREFIX } from '@bright-cellar/device-link';
import express from 'express';
import pino from 'pino';
import { Berths } from './berths.js';
import { linkRoutes } from './link-routes.js';
import { Mounts } from './mounts.js';
import { served } from './served.js';

/** The adapter process of a shop: `node dist/main.js --port 4681 `. What the shop decides of it comes over the link. */
const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '4681' },
  },
});

/** Until it was told otherwise. */
const USUAL_BERTHS = 4;

const log = pino({ base: { process: 'adapter' } });
const token = process.env.CELLAR_LINK_TOKEN;
if (!token) {
  log.fatal('the adapter needs CELLAR_LINK_TOKEN');
  process.exit(2);
}

// Whoever keeps this process running ends one that has nothing to say for a minute.
setInterval(() => {
  if (process.connected) process.send?.({ alive: true });
}, 5000).unref();

const berths = new Berths(USUAL_BERTHS, 0);
const mounts = new Mounts(berths);
const app = express();
app.disable('x-powered-by');
app.use(LINK_PREFIX, linkRoutes({ name: 'Mounted storage', token, berths, mounts }));
const { port, stop } = await served(app, Number(values.port));
log.info({ port }, 'the adapter is ready');
process.send?.({ ready: true, port });

const end = () => {
  mounts.end();
  void stop().then(() => process.exit(0));
};
process.on('SIGTERM', end);
process.on('SIGINT', end);
// Whoever started this process is gone: so is the reason to run.
process.on('disconnect', end);
