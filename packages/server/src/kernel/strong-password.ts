import { Failure, passwordProblem, type Problem } from '@bright-cellar/core';

/**
 * What judges a password that is long enough. It brings its word lists along, and is loaded when somebody first chooses one: no
 * process starts the slower for it.
 */
export const estimator = {
  /** @returns why it must not be given to anything new, null where it may */
  async problemOf(password: string): Promise<Problem | null> {
    const { newPasswordProblem } = await import('@bright-cellar/core/strength');
    return newPasswordProblem(password);
  },
};

/**
 * A password that may be given to something new.
 * @throws Failure `weak-password`
 */
export async function mustBeStrong(password: string): Promise<void> {
  const weak = passwordProblem(password) ?? (await estimator.problemOf(password));
  if (weak) throw new Failure(weak.code, weak);
}
