/** Reading and writing what is taken out of a device by itself. Apart from the rest: it brings parsers along that no screen needs. */
export { plainStyle, writeExtract, type ExtractStyle } from './formats.js';
export type { Thread } from '../records/thread.js';
export { extractOf, isOfSet, keyed, mediaPath, namesIn, type ExtractRecord } from './records.js';
export { OPEN_FILE_LINES_MAX, readOpenFile, type OpenFile } from './open-file.js';
export {
  guessedMapping,
  nameKey,
  picturePlace,
  readBack,
  type PicturePath,
  type ReadBack,
} from './read-back.js';
