import type { Elevation, Rack } from '@bright-cellar/contract';
import type { MovePlan, Stock } from '@bright-cellar/core/placement';

/** A rack as it is, and as a plan leaves it. */
export interface BeforeAfter {
  before: { rack: Rack; drawn: Elevation; lit: ReadonlySet<string> };
  after: { rack: Rack; drawn: Elevation; lit: ReadonlySet<string> };
}

/** Courses that are drawn one by one; what is smaller, and stays, is drawn together. */
const COURSES = 40;

/** Every rack as it is and as it will be; what moves is lit. */
export function drawPlan(
  racks: readonly Rack[],
  stock: Stock,
  plan: MovePlan | null,
): BeforeAfter[] {
  const archives = new Map(stock.archives.map((archive) => [archive.id, archive]));
  const start = new Map(stock.copies.map((copy) => [copy.id, copy.rackId]));
  const end = new Map(start);
  for (const { copyId, to } of plan?.moves ?? []) end.set(copyId, to);
  const moving = stock.copies.filter(({ id }) => start.get(id) !== end.get(id));
  const draw = (rack: Rack, where: typeof start, free: number) => {
    const own = stock.copies.filter(({ id }) => String(where.get(id)) === rack.id);
    const stored = own.reduce((sum, { bytes }) => sum + bytes, 0);
    const lit = new Set(
      moving.filter((copy) => own.includes(copy)).map(({ archiveId }) => String(archiveId)),
    );
    const bySize = [...own].sort(
      (a, b) => Number(lit.has(b.archiveId)) - Number(lit.has(a.archiveId)) || b.bytes - a.bytes,
    );
    const shown = bySize.slice(0, Math.max(COURSES, lit.size)).sort((a, b) => b.bytes - a.bytes);
    const drawnBytes = shown.reduce((sum, { bytes }) => sum + bytes, 0);
    return {
      rack: { ...rack, free, storedBytes: stored, archives: own.length },
      drawn: {
        rackId: rack.id,
        courses: shown.map(({ archiveId, bytes, damaged }) => {
          const { deviceName = '', customerName = '' } = archives.get(archiveId) ?? {};
          const state = damaged ? ('damaged' as const) : ('whole' as const);
          return { archiveId, deviceName, customerName, storedBytes: bytes, state };
        }),
        others: { archives: own.length - shown.length, storedBytes: stored - drawnBytes },
        full: null,
        ailing: null,
      },
      lit,
    };
  };
  // What is away and has no part in it says nothing here.
  const isPart = (id: string) =>
    (plan?.moves ?? []).some(({ from, to }) => id === from || id === to);
  return racks
    .filter((rack) => rack.present || isPart(rack.id))
    .map((rack) => {
      const known = stock.racks.find(({ id }) => String(id) === rack.id);
      const free = known?.free ?? rack.free;
      return {
        before: draw(rack, start, free),
        after: draw(rack, end, plan?.free.get(rack.id) ?? free),
      };
    });
}
