export { startBench, type BenchOptions, type RunningBench } from './bench.js';
export { generateContents } from './contents/generate.js';
export { LARGE_SIZE } from './contents/sizes.js';
