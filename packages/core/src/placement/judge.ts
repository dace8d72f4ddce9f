import { formatBytes } from '../values/index.js';
import { fieldOf, fits, loadsOf, mayLie } from './field.js';
import type { PlannedMove } from './plan.js';
import type { Lying } from './stock.js';

/**
 * Goes through moves one by one, as they would be done, and says the first thing that is wrong with them; null where
 * nothing is: every copy is of the archive that is named, and where it is taken from, racks keep their reserve at every
 * moment, copies of an archive lie on different racks, and one that must be off the premises stays there.
 * @param stock of the archives that are moved, at least
 */
export function judgeMoves(stock: Lying, moves: readonly PlannedMove[]): string | null {
  const named = moves.map(({ copyId, to }) => ({ copyId, rackId: to }));
  const none = { bring: [], atMost: new Map(), closed: new Set<never>() };
  const field = fieldOf(stock, none, named);
  const placement = [...field.start];
  const loads = loadsOf(field, placement);
  for (const [step, move] of moves.entries()) {
    const nth = `Move ${step + 1}`;
    const copy = field.copies.findIndex(({ id }) => id === move.copyId);
    const from = field.racks.findIndex(({ id }) => id === move.from);
    const to = field.racks.findIndex(({ id }) => id === move.to);
    const own = field.copies[copy];
    const target = field.racks[to];
    const isOf = own?.archiveId === move.archiveId;
    if (!own || !isOf || from < 0 || !target || placement[copy] !== from) {
      return `${nth}: the archive does not lie there any more.`;
    }
    if (!own.movable) return `${nth}: that copy is damaged; repair it first.`;
    if (!mayLie(field, placement, copy, to)) {
      return `${nth}: ${target.name} has that archive already, or it would be off the premises no more.`;
    }
    if (!fits(field, loads, copy, to)) {
      const left = target.ceiling - (loads[to] ?? 0);
      return `${nth}: ${target.name} would have ${formatBytes(Math.max(0, left))} beside its reserve; the archive takes ${formatBytes(own.bytes)}.`;
    }
    loads[from] = (loads[from] ?? 0) - own.bytes;
    loads[to] = (loads[to] ?? 0) + own.bytes;
    placement[copy] = to;
  }
  return null;
}
