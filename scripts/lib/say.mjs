// @ts-check

/** Ends the program with one clear sentence for whoever typed the command. */
export class Sentence extends Error {}

/** @param {string} text */
export function say(text) {
  process.stdout.write(`${text}\n`);
}

/**
 * Runs a command's main function: a {@link Sentence} is printed alone, anything else with its stack.
 * @param {() => Promise<void>} main
 */
export async function runMain(main) {
  try {
    await main();
  } catch (error) {
    if (error instanceof Sentence) process.stderr.write(`${error.message}\n`);
    else console.error(error);
    process.exitCode = 1;
  }
}
