import type { z } from 'zod';
import { backup } from './backup.js';
import { bringApplications } from './bring-applications.js';
import { bringBack } from './bring-back.js';
import { bringIn } from './bring-in.js';
import { check } from './check.js';
import { copyArchive } from './copy.js';
import { cross } from './cross.js';
import { dispose } from './dispose.js';
import { erase } from './erase.js';
import { exportPackage } from './export.js';
import { extract } from './extract.js';
import { foresee } from './foresee.js';
import { importPackage } from './import.js';
import { move } from './move.js';
import { prove } from './prove.js';
import { prune } from './prune.js';
import { repair } from './repair.js';
import { restore } from './restore.js';
import { sync } from './sync.js';
import type { OperationDefinition, References } from './define.js';

/** Every kind of long work. One line adds one. */
export const operations = {
  backup,
  bringIn,
  prove,
  restore,
  foresee,
  cross,
  bringBack,
  bringApplications,
  erase,
  export: exportPackage,
  import: importPackage,
  extract,
  copy: copyArchive,
  check,
  repair,
  move,
  dispose,
  prune,
  sync,
};

export type OperationKind = keyof typeof operations;
export const operationKinds = Object.keys(operations) as [OperationKind, ...OperationKind[]];

type Definitions = typeof operations;
/** What an operation needs to know to be done, as it is kept in its row. */
export type OperationInput<Kind extends OperationKind = OperationKind> = z.infer<
  Definitions[Kind]['input']
>;
/** How an operation ended well. */
export type OperationResult<Kind extends OperationKind = OperationKind> = z.infer<
  Definitions[Kind]['result']
>;
/** What work of a kind has to do with, by its ids. */
export type OperationReferences<Kind extends OperationKind = OperationKind> = References<
  Definitions[Kind]['about']
>;
export type OperationPhase<Kind extends OperationKind = OperationKind> = {
  [K in Kind]: keyof Definitions[K]['phases'] & string;
}[Kind];

/** What is known of a kind, whichever it is. */
export const definitionOf = (kind: OperationKind): OperationDefinition =>
  operations[kind] as unknown as OperationDefinition;

export const phaseName = (kind: OperationKind, phase: string): string =>
  definitionOf(kind).phases[phase] ?? phase;

/** Whether work of this kind ends when somebody wishes, in the phase that it is in. */
export function isStoppable(kind: OperationKind, phase: string): boolean {
  const { unstoppable } = definitionOf(kind);
  return unstoppable !== 'all' && !unstoppable.includes(phase);
}

export const isPausable = (kind: OperationKind, phase: string): boolean =>
  definitionOf(kind).pausable.includes(phase);

export * from './define.js';
export * from './state.js';
export {
  committingSchema,
  newBackupSchema,
  newRecoveredSchema,
  type Committing,
  type NewBackup,
  type NewRecovered,
} from './backup.js';
export type { CopiedArchive } from './copy.js';
export { moveStates, openMoveStates, type MoveState } from './move.js';
export {
  syncedClasses,
  syncedKinds,
  syncSetupSchema,
  type MergedKindTold,
  type SyncedKind,
  type SyncSetup,
} from './sync.js';
export { chosenPartSchema, type ChosenPart } from './foresee.js';
export { newMigrationSchema, type NewMigration } from './restore.js';
export { newExtractSchema, recordsExtractSchema, type NewExtract } from './extract.js';
