/** Tickets: taking in, the visit’s facts and run sheet, settling, papers. */
export { findCustomers } from './customers.js';
export { knownVisits, openTicket, tieDevice } from './intake.js';
export { labelFor, slipFor } from './papers.js';
export { closeTicket, noteAgreement, settleStep } from './settling.js';
export { findTickets, listTickets, ticketByNumber } from './tickets.js';
export { ticketForWork } from './visits.js';
