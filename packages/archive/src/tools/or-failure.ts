import { Failure } from '@bright-cellar/core';
import { isFinding } from '../disk/errors.js';

/** What a step gives, or why it does not. @throws whatever says nothing of what lies there */
export async function orFailure<T>(step: () => Promise<T>): Promise<T | Failure> {
  try {
    return await step();
  } catch (error) {
    if (isFinding(error)) return error;
    throw error;
  }
}
