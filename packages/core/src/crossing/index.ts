export { listOf, recordsOf, type Example } from '../records/fields.js';
export { crossRecords, movedTo, tallyOf, type Outgoing, type ReadItem } from './convert.js';
export {
  attachedTo,
  chosenPart,
  inHand,
  messageKey,
  onlySelected,
  pickKey,
  type Picked,
  type Selection,
} from './selection.js';
export { CrossingTarget, type SourceItem } from './target.js';
