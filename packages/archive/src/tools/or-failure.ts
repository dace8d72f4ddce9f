import { Failure } from '@bright-cellar/core';

/** What a step gives, or why it does not. */
export async function orFailure<T>(step: () => Promise<T>): Promise<T | Failure> {
  try {
    return await step();
  } catch (error) {
    if (error instanceof Failure) return error;
    throw error;
  }
}
