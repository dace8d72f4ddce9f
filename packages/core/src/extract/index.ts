/** Reading and writing what is taken out of a device by itself. Apart from the rest: it brings parsers along that no screen needs. */
export { writeExtract } from './formats.js';
export { extractOf, isOfSet, keyed, mediaPath, namesIn, type ExtractRecord } from './records.js';
