/** The page on which customers type a password by themselves. */
export { deskRecord } from './record.js';
export { PasswordDesks } from './password-desk.js';
