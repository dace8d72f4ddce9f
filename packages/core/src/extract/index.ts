/** Reading and writing what is taken out of a device by itself. Apart from the rest: it brings parsers along that no screen needs. */
export { namesIn } from './contact-names.js';
export { writeExtract } from './formats.js';
export { isOfSet, keyed, mediaPath, recordsOf, type ExtractRecord } from './records.js';
