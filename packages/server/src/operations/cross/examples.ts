import type { ClassExamples } from '@bright-cellar/contract';
import { Failure, type DataClass } from '@bright-cellar/core';
import type { Example } from '@bright-cellar/core/crossing';
import type { Piece } from './crossing.js';

/** Of a class so many records are shown. */
const OF_A_CLASS = 12;
/** So many loss reports are remembered. */
const REMEMBERED_MAX = 20;

/** Records that do not arrive as they were, by the loss report: in the memory of the work process, and gone with it. */
const remembered = new Map<string, Map<DataClass, Example[]>>();

/** Gathers some of those while a loss report is made. @param id of the work that makes it */
export function gatherExamples(id: string): (piece: Piece) => void {
  const of = new Map<DataClass, Example[]>();
  remembered.set(id, of);
  for (const old of [...remembered.keys()].slice(0, -REMEMBERED_MAX)) remembered.delete(old);
  return (piece) => {
    if (piece.what !== 'records') return;
    const { class: dataClass, examples } = piece.file;
    const known = of.get(dataClass) ?? [];
    of.set(dataClass, [...known, ...examples].slice(0, OF_A_CLASS));
  };
}

/** @throws Failure `not-found` where nobody remembers them */
export function examplesOf(id: string): ClassExamples[] {
  const of = remembered.get(id);
  if (!of) {
    throw new Failure('not-found', {
      what: 'Nobody remembers single items of that loss report any more.',
      next: 'Ask for the loss report again.',
    });
  }
  return [...of].flatMap(([dataClass, examples]) =>
    examples.length === 0 ? [] : [{ class: dataClass, examples }],
  );
}
