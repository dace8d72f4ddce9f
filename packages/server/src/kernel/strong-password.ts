import { Failure } from '@bright-cellar/core';

/**
 * A password that may be given to something new. What judges it brings its word lists along, and is loaded when somebody first
 * chooses one: no process starts the slower for it.
 * @throws Failure `weak-password`
 */
export async function mustBeStrong(password: string): Promise<void> {
  const { newPasswordProblem } = await import('@bright-cellar/core/strength');
  const weak = newPasswordProblem(password);
  if (weak) throw new Failure(weak.code, weak);
}
