import { sayAlive } from './kernel/alive.js';
import { readConfig } from './config.js';
import { openInstallation } from './kernel/installation.js';
import { describeError, makeLog } from './log.js';
import { serve } from './serve.js';

/** The server process. */
const config = readConfig(process.env);
openInstallation(config.data);
const log = makeLog('server', config.logLevel);
sayAlive();
try {
  const server = await serve(config, log);
  log.info({ port: server.port }, 'server is ready');
  process.send?.({ ready: true, port: server.port, deskPort: server.deskPort });
  const stop = () => void server.stop().then(() => process.exit(0));
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
  // Whoever started this process is gone: so is the reason to run.
  process.on('disconnect', stop);
} catch (error) {
  log.fatal({ error: describeError(error) }, 'server could not start');
  process.exit(1);
}
