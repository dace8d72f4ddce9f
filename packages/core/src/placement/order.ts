import { fits, isContent, loadsOf, mayLie, type Field, type Move } from './field.js';

/**
 * Moves from what lies where now to a placement, each possible when its turn comes. Where they wait for each other in a
 * ring, something makes a detour. Null where no order is found.
 */
export function orderMoves(field: Field, wanted: readonly number[]): Move[] | null {
  const placement = [...field.start];
  const loads = loadsOf(field, placement);
  const goal = [...wanted];
  const moves: Move[] = [];
  const go = (copy: number, to: number, detour: boolean) => {
    const from = placement[copy] ?? -1;
    const bytes = field.copies[copy]?.bytes ?? 0;
    loads[from] = (loads[from] ?? 0) - bytes;
    loads[to] = (loads[to] ?? 0) + bytes;
    placement[copy] = to;
    moves.push({ copy, from, to, detour });
  };
  const canGo = (copy: number, to: number) =>
    fits(field, loads, copy, to) && mayLie(field, placement, copy, to);
  const bytesOf = (copy: number) => field.copies[copy]?.bytes ?? 0;
  const waiting = () => goal.flatMap((to, copy) => (to !== placement[copy] ? copy : []));
  const goalOf = (copy: number) => goal[copy] ?? -1;
  /** What stepped aside, and for whose sake: it comes back when somebody had the room. */
  const held = new Map<number, number>();
  let detours = 0;
  for (let left = waiting(); left.length > 0; left = waiting()) {
    const ready = left.filter((copy) => !held.has(copy) && canGo(copy, goalOf(copy)));
    const stuckAt = new Set(left.filter((copy) => !canGo(copy, goalOf(copy))).map(goalOf));
    // First what makes room where others wait, and takes none where they do; of these the largest.
    const [next] = ready.sort(
      (a, b) =>
        urgency(b, placement, goal, stuckAt) - urgency(a, placement, goal, stuckAt) ||
        bytesOf(b) - bytesOf(a),
    );
    if (next !== undefined) {
      const to = goalOf(next);
      go(next, to, false);
      for (const [copy, rack] of held) if (rack === to) held.delete(copy);
      continue;
    }
    if (++detours > 2 * goal.length + 4) return null;
    const aside = detour(field, { placement, loads, goal, left, canGo });
    if (!aside) return null;
    held.set(aside.copy, placement[aside.copy] ?? -1);
    go(aside.copy, aside.to, true);
  }
  return isContent(field, placement, loads) ? withoutIdle(moves) : null;
}

function urgency(
  copy: number,
  placement: readonly number[],
  goal: readonly number[],
  stuckAt: ReadonlySet<number>,
): number {
  const frees = stuckAt.has(placement[copy] ?? -1) ? 2 : 0;
  return frees - (stuckAt.has(goal[copy] ?? -1) ? 1 : 0);
}

interface Stuck {
  placement: readonly number[];
  loads: readonly number[];
  goal: readonly number[];
  left: readonly number[];
  canGo: (copy: number, to: number) => boolean;
}

/** The smallest copy that can step aside so that something else can go where it is wanted; it goes on, or back, after. */
function detour(field: Field, { placement, loads, goal, left, canGo }: Stuck) {
  const bytesOf = (copy: number) => field.copies[copy]?.bytes ?? 0;
  const blocked = new Set(left.map((copy) => goal[copy] ?? -1));
  const aside = placement
    .flatMap((rack, copy) =>
      field.copies[copy]?.movable === true && blocked.has(rack) ? copy : [],
    )
    .sort((a, b) => bytesOf(a) - bytesOf(b));
  for (const helps of [enough, some]) {
    for (const copy of aside) {
      const from = placement[copy] ?? -1;
      for (const [to, { usable, closed }] of field.racks.entries()) {
        if (to === from || to === goal[copy] || !usable || closed || !canGo(copy, to)) continue;
        if (helps(field, { loads, goal, left, placement }, copy, to)) return { copy, to };
      }
    }
  }
  return null;
}

type Aside = Pick<Stuck, 'loads' | 'goal' | 'left' | 'placement'>;

/** Whether something that waits could go, once a copy has stepped aside. */
function enough(
  field: Field,
  { loads, goal, left, placement }: Aside,
  copy: number,
  to: number,
): boolean {
  const bytes = field.copies[copy]?.bytes ?? 0;
  const from = placement[copy] ?? -1;
  const after = [...loads];
  after[from] = (after[from] ?? 0) - bytes;
  after[to] = (after[to] ?? 0) + bytes;
  const then = placement.with(copy, to);
  return left.some((other) => {
    const wanted = goal[other] ?? -1;
    return (
      other !== copy &&
      wanted === from &&
      fits(field, after, other, wanted) &&
      mayLie(field, then, other, wanted)
    );
  });
}

/** Whether it makes room where something waits that is larger, and takes none where anything waits. */
function some(field: Field, { goal, left, placement }: Aside, copy: number, to: number): boolean {
  const bytes = field.copies[copy]?.bytes ?? 0;
  const from = placement[copy] ?? -1;
  const waitsAt = (rack: number) => left.some((other) => other !== copy && goal[other] === rack);
  const larger = left.some(
    (other) => other !== copy && goal[other] === from && (field.copies[other]?.bytes ?? 0) > bytes,
  );
  return larger && !waitsAt(to);
}

/** A copy that went somewhere and on again with nothing between that needed it goes there at once. */
function withoutIdle(moves: readonly Move[]): Move[] {
  const kept: Move[] = [];
  for (const move of moves) {
    const last = kept.at(-1);
    if (last?.copy !== move.copy) kept.push(move);
    else {
      kept.pop();
      if (last.from !== move.to) kept.push({ ...move, from: last.from });
    }
  }
  return kept;
}
