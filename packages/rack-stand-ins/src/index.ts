export { startBox, type Box } from './box.js';
export { startObjects, type Objects } from './objects/server.js';
