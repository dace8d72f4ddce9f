import { guessesFor, newPasswordProblem } from '@bright-cellar/core/strength';

/** What a password is worth. */
export interface Strength {
  /** Why it cannot be used; null where it can. */
  refused: string | null;
  /** So many guesses find it. */
  guesses: number;
}

export const strengthOf = (password: string): Strength => ({
  refused: newPasswordProblem(password)?.what ?? null,
  guesses: guessesFor(password),
});
