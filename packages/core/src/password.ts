import { problem, type Problem } from './problem.js';

export const MIN_PASSWORD_LENGTH = 8;

/**
 * The floor under every backup password, checked by screen and server alike. Strength above the
 * floor is for an estimator to show; this only refuses what is no password at all.
 */
export function passwordProblem(password: string): Problem | null {
  if (/^\d+$/.test(password) && password.length < 12) {
    return problem('weak-password', {
      what: `A PIN of ${password.length} digits is not a password: a computer tries them all in no time.`,
    });
  }
  if (Array.from(password).length < MIN_PASSWORD_LENGTH) {
    return problem('weak-password', {
      what: `That password has fewer than ${MIN_PASSWORD_LENGTH} characters.`,
    });
  }
  if (new Set(password).size < 4) {
    return problem('weak-password', { what: 'That password repeats the same few characters.' });
  }
  return null;
}
