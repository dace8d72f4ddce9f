/** The shop’s escrow: two people together, where the customer agreed. */
export { escrowRecipient, withdrawConsent, withdrawOwed } from './escrow.js';
