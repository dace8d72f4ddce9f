// @ts-check
import fc from 'fast-check';

/**
 * Property tests look elsewhere in every run by hand, and say their seed when they find something: `FUZZ_SEED=N` looks
 * there again. In CI they try the same inputs each time, so that a commit that passed passes again. `FUZZ_RUNS=N` looks
 * longer. Whatever is dear, or counts what it met, says itself how often it runs.
 */
const { CI, FUZZ_SEED, FUZZ_RUNS = '300' } = process.env;
const seed = FUZZ_SEED ?? (CI ? '4680' : null);
fc.configureGlobal({
  numRuns: Number(FUZZ_RUNS),
  ...(seed === null ? {} : { seed: Number(seed) }),
});
