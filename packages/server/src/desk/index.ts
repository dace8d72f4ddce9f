/** The page on which customers type a password by themselves. */
export { deskRecord } from './record.js';
export { PasswordDesks, qrCode, type DeskEvents } from './password-desk.js';
