/** What is taken again and again. */
export { RegularWorks } from './regular.js';
