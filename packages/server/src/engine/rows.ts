import {
  definitionOf,
  type OperationKind,
  type OperationInput,
  type OperationResult,
} from '@bright-cellar/core';
import type { operations, Versioned } from '../database/schema.js';

type Row = typeof operations.$inferSelect;

/** An operation's row, its kind known: what it needs to be done, as it was parsed. */
export type RowOf<Kind extends OperationKind> = Omit<Row, 'kind' | 'input' | 'result'> & {
  kind: Kind;
  input: OperationInput<Kind>;
  result: OperationResult<Kind> | null;
};
export type AnyRow = { [Kind in OperationKind]: RowOf<Kind> }[OperationKind];

/** What is kept of an operation, in its present shape. @throws ZodError where it is none that this version wrote */
export function rowOf(row: Row): AnyRow {
  const { kind } = row;
  return {
    ...row,
    kind,
    input: inputOf(kind, row.input),
    result: resultOf(kind, row.result),
  } as AnyRow;
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
