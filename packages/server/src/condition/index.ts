/** How the installation is. */
export { conditionOf } from './routes.js';
