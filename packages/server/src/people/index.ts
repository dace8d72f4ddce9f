/** The people of the shop, and their own sign-ins. */
export { addTechnician, verifyTechnician } from './technicians.js';
