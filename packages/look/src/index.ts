export { Looked, type Surroundings } from './looked.js';
export { playsAs } from './shown.js';
export { gathered, type ByteRange, type Source, type SourceItem } from './source.js';
export type { Packed, Packing, TakenFiles } from './take-out/package.js';
