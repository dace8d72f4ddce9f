/** The shop’s escrow: two people together, where the customer agreed. */
export {
  escrowRecipient,
  escrowView,
  openByEscrow,
  setUpEscrow,
  withdrawConsent,
  withdrawOwed,
} from './escrow.js';
