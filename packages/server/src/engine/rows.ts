import {
  definitionOf,
  type OperationKind,
  type OperationInput,
  type OperationReferences,
  type OperationResult,
} from '@bright-cellar/core';
import type { operations, Versioned } from '../database/schema.js';

type Row = typeof operations.$inferSelect;

/** An operation's row, its kind known: what it needs to be done, as it was parsed. */
export type RowOf<Kind extends OperationKind> = Omit<
  Row,
  'kind' | 'input' | 'result' | keyof OperationReferences
> &
  OperationReferences<Kind> & {
    kind: Kind;
    input: OperationInput<Kind>;
    result: OperationResult<Kind> | null;
  };
export type AnyRow = { [Kind in OperationKind]: RowOf<Kind> }[OperationKind];

/**
 * What is kept of an operation, in its present shape.
 * @throws ZodError where it is none that this version wrote; Error where it does not say what it has to do with
 */
export function rowOf(row: Row): AnyRow {
  const { kind } = row;
  mustRefer(row);
  return {
    ...row,
    kind,
    input: inputOf(kind, row.input),
    result: resultOf(kind, row.result),
  } as AnyRow;
}

function mustRefer({ kind, deviceId, archiveId, backupId }: Row): void {
  const { about } = definitionOf(kind);
  const ids = { device: deviceId, archive: archiveId, backup: backupId };
  for (const thing of ['device', 'archive', 'backup'] as const) {
    const isSaid = ids[thing] !== null;
    if (about[thing] === (isSaid ? 'never' : 'always')) {
      throw new Error(`an operation that is ${about[thing]} about a ${thing}: ${kind}`);
    }
  }
}

export const inputOf = <Kind extends OperationKind>(kind: Kind, kept: Versioned) =>
  parsed(kind, kept, definitionOf(kind).input) as OperationInput<Kind>;

export const resultOf = <Kind extends OperationKind>(kind: Kind, kept: Versioned | null) =>
  kept && (parsed(kind, kept, definitionOf(kind).result) as OperationResult<Kind>);

function parsed(
  kind: OperationKind,
  { version, value }: Versioned,
  schema: { parse(value: unknown): unknown },
): unknown {
  if (version !== definitionOf(kind).version) {
    throw new Error(`an operation of version ${version} was not migrated: ${kind}`);
  }
  return schema.parse(value);
}

/** As it is kept. */
export const versioned = (kind: OperationKind, value: unknown): Versioned => ({
  version: definitionOf(kind).version,
  value,
});
