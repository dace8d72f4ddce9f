import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary as common } from '@zxcvbn-ts/language-common';
import { dictionary as english } from '@zxcvbn-ts/language-en';
import { passwordProblem } from './password.js';
import { problem, type Problem } from '../values/index.js';

/**
 * How many guesses a password takes, by a well-known estimator. Apart from the rest of this package, since it brings its
 * word lists along: screens fetch it only when somebody types a password.
 */
let estimator: ZxcvbnFactory | null = null;

/** Longer ones are as strong as their beginning, at least; the estimator's time grows with the length. */
const LOOKED_AT = 100;
/** What a thief who rents computers tries in a quarter of an hour, at the price of one guess of ours. */
const LEAST_GUESSES = 1e7;

export function guessesFor(password: string): number {
  estimator ??= new ZxcvbnFactory({
    dictionary: { ...common, ...english },
    graphs: adjacencyGraphs,
  });
  return estimator.check(password.slice(0, LOOKED_AT)).guesses;
}

/** Why a password must not be given to a new archive; null when it may. Screen and server alike. */
export function newPasswordProblem(password: string): Problem | null {
  const refused = passwordProblem(password);
  if (refused) return refused;
  if (guessesFor(password) >= LEAST_GUESSES) return null;
  return problem('weak-password', {
    what: 'That password is one of the first that anybody would try.',
    next: 'Choose words that do not belong together; four of them are strong.',
  });
}
