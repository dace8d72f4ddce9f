// @ts-check
import fc from 'fast-check';

/**
 * Property tests try the same inputs in every run, so that a commit that passed passes again.
 * `FUZZ_SEED=$RANDOM npm run test:unit` looks elsewhere; a failure names its seed.
 */
fc.configureGlobal({ seed: Number(process.env.FUZZ_SEED ?? 4680) });
