/** What the bench did. */
export { dayReport } from './reports.js';
