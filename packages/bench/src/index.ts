export { startBench, type BenchOptions, type RunningBench } from './bench.js';
export { generateContents, type ContentsSize } from './contents/generate.js';
