/** Tickets: taking in, the visit’s facts and run sheet, settling, papers. */
export { findTickets, openByPromise } from './tickets.js';
export { takeUpTicket } from './take-up.js';
export { ticketForWork } from './visits.js';
