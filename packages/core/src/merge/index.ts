/** Organiser sync: two sides kept in step by what each held when they last were. Nothing here reads or writes either side. */
export { bookFormats, newBookFile } from './book-file.js';
export {
  mergedKinds,
  mergeRules,
  type MergedKind,
  type MergedRecords,
  type MergeRules,
} from './fields.js';
export { type BothSides, type SideName } from './merge-record.js';
export {
  amountOfSteps,
  plannedMerge,
  rememberedAfter,
  removesTooMuch,
  type Conflict,
  type Held,
  type MergeInput,
  type MergeLine,
  type Remembered,
  type Step,
} from './plan.js';
export {
  inStepOf,
  lettersAside,
  merged,
  type AnyLine,
  type AnyRecordInStep,
  type AnyRemembered,
  type Merged,
  type MergeWay,
  type Merging,
} from './merging.js';
export { answered, asked, heard, understood } from './wire.js';
export { samePersons, type SamePerson } from './same-person.js';
export { saidOf, type SaidPart } from './said.js';
export { contactAfter, withJoined } from './join.js';
export { withoutParts } from './without.js';
export { apartOf, togetherOf, withOccurrences } from '../records/occurrence.js';
