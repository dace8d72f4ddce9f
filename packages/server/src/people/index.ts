/** The people of the shop, and their own sign-ins. */
export { accountView, changeOwnPassword, endOwnSessions } from './account.js';
export { addTechnician, signIn, verifyTechnician } from './technicians.js';
