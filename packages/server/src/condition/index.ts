/** How the installation is. */
export { findingsOf } from './routes.js';
