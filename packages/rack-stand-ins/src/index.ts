export { startBox, type Box } from './box.js';
export { startObjects, type Objects } from './objects/server.js';
export { freePort } from './free-port.js';
export { RADICALE_PASSWORD, RADICALE_USER, startRadicale, type Radicale } from './radicale.js';
