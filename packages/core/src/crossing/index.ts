export { crossRecords, movedTo, tallyOf, type Outgoing, type ReadItem } from './convert.js';
export { CrossingTarget, type SourceItem } from './target.js';
