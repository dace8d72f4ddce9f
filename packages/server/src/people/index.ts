/** The people of the shop, and their own sign-ins. */
export { sessionView } from './session-view.js';
export { addTechnician, verifyTechnician, type Technician } from './technicians.js';
