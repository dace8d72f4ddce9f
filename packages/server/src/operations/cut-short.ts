import { definitionOf, Failure, type OperationKind } from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import type { Database } from '../database/connect.js';
import { operationById, operationRow, type RowOf } from '../engine/index.js';
import { mustBeAllowed } from '../kernel/actor.js';
import type { Context } from '../shop.js';
import { cutBackup } from './backup/again.js';
import { cutMove } from './move/again.js';

/** What is typed to let work go on. */
export interface Typed {
  fromDesk: boolean;
  password: string;
}

/** What can be done with work of a kind that ended badly. */
export interface CutShort<Kind extends OperationKind> {
  /** Bytes that it left behind and can go on from, as the medium says now; null where it cannot. */
  kept(db: Database, row: RowOf<Kind>): Promise<number | null>;
  /** @throws Failure `not-found` when there is nothing to go on from */
  goOn(context: Context, row: RowOf<Kind>, typed: Typed): Promise<Operation>;
  /** Frees its space. @throws Failure `not-found` when there is nothing to give up */
  giveUp(context: Context, row: RowOf<Kind>): Promise<void>;
}

/** Kinds that can go on. One line adds one. */
const kinds: { [Kind in OperationKind]?: CutShort<Kind> } = { backup: cutBackup, move: cutMove };

async function cutShort(db: Database, id: string) {
  const row = await operationRow(db, id);
  const cut: CutShort<OperationKind> | undefined = kinds[row.kind];
  return { row, cut };
}

/** One operation, with what is left of it to go on from. @throws Failure `not-found` */
export async function operationInFull(db: Database, id: string): Promise<Operation> {
  const operation = await operationById(db, id);
  if (operation.problem === null) return { ...operation, keptBytes: null };
  const { row, cut } = await cutShort(db, id);
  return { ...operation, keptBytes: (await cut?.kept(db, row)) ?? null };
}

const nothingLeft = () =>
  new Failure('not-found', { what: 'Nothing of that work is left to go on from.' });

/** Lets work that was cut off go on from what it left behind. */
export async function goOn(context: Context, id: string, typed: Typed): Promise<Operation> {
  const { row, cut } = await cutShort(context.db, id);
  if (!cut) throw nothingLeft();
  return cut.goOn(context, row, typed);
}

/** Gives up work that was cut off. */
export async function giveUp(context: Context, id: string): Promise<Operation> {
  const { row, cut } = await cutShort(context.db, id);
  if (!cut) throw nothingLeft();
  mustBeAllowed(context.actor, definitionOf(row.kind).permission);
  await cut.giveUp(context, row);
  return operationInFull(context.db, id);
}
