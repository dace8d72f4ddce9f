/** The shop’s escrow: two people together, where the customer agreed. */
export { escrowLeavers, escrowRecipient, withdrawConsent, withdrawOwed } from './escrow.js';
