/** Organiser sync: two sides kept in step by what each held when they last were. Nothing here reads or writes either side. */
export { mergedKinds, mergeRules, type MergedKind, type MergedRecords } from './fields.js';
export { type BothSides, type SideName } from './merge-record.js';
export {
  amountOfSteps,
  conflictRules,
  plannedMerge,
  rememberedAfter,
  removesTooMuch,
  syncDirections,
  type Conflict,
  type ConflictRule,
  type Decision,
  type Held,
  type MergeInput,
  type MergeLine,
  type Remembered,
  type Step,
  type SyncDirection,
} from './plan.js';
export {
  joined,
  personReasons,
  samePersons,
  type PersonReason,
  type SamePerson,
} from './same-person.js';
