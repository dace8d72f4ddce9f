import { problem, type Problem } from '../values/index.js';

export const MIN_PASSWORD_LENGTH = 8;

/**
 * What an archive that is not encrypted is sealed with: known to everybody, and printed in
 * docs/archive-format.md. It protects nothing.
 */
export const OPEN_PASSWORD = 'open to everybody';

/**
 * A password of words that do not belong together.
 * @param random a whole number from 0 up to, not including, its argument, out of a cryptographic source
 */
export function madePassword(
  words: readonly string[],
  random: (below: number) => number,
  count = 5,
): string {
  return Array.from({ length: count }, () => words[random(words.length)] ?? '').join(' ');
}

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
