import type { DataClass } from './classes.js';
import type { ClassAmount, DeviceFacts } from './device.js';
import { roomBeside } from './readiness.js';

/** Whether something goes onto a device, to the byte. All in bytes. */
export interface Fit {
  /** What goes over. */
  contents: number;
  /** What the device makes of it, besides: indexes, previews. */
  made: number;
  /** What it works in meanwhile. */
  working: number;
  /** What its OS downloads later, as far as the device says it. */
  later: number;
  need: number;
  free: number;
  /** How much too much it is; 0 where it fits. */
  over: number;
}

export function fitOf(
  device: Pick<DeviceFacts, 'capacity' | 'used' | 'osUpdate'>,
  contents: number,
): Fit {
  const { made, working } = roomBeside(contents, device.capacity);
  const later = device.osUpdate?.bytes ?? 0;
  const need = contents + made + working + later;
  const free = device.capacity - device.used;
  return { contents, made, working, later, need, free, over: Math.max(0, need - free) };
}

/**
 * What it costs a customer to do without a class, beside others: what downloads again costs little, what nobody can bring back
 * costs most.
 */
const costs: Record<DataClass, number> = {
  music: 1,
  videos: 6,
  documents: 20,
  'voice-notes': 25,
  photographs: 60,
  applications: 80,
  'web-history': 90,
  health: 200,
  settings: 200,
  'saved-passwords': 300,
  alarms: 300,
  calls: 300,
  notes: 400,
  messages: 500,
  calendar: 600,
  contacts: 1000,
};

/**
 * Classes to leave out so that the rest fits, at the least cost to the customer, and of what costs the same the least; null where even
 * nothing would fit. Every choice is tried: there are few classes.
 */
export function proposedLeavingOut(
  device: Parameters<typeof fitOf>[0],
  chosen: readonly ClassAmount[],
): DataClass[] | null {
  const some = chosen.filter(({ bytes }) => bytes > 0);
  const all = some.reduce((sum, { bytes }) => sum + bytes, 0);
  let best: { mask: number; cost: number; bytes: number } | null = null;
  for (let mask = 0; mask < 2 ** some.length; mask++) {
    let bytes = 0;
    let cost = 0;
    for (const [i, amount] of some.entries()) {
      if ((mask & (1 << i)) === 0) continue;
      bytes += amount.bytes;
      cost += costs[amount.class];
    }
    const isBetter = !best || cost < best.cost || (cost === best.cost && bytes < best.bytes);
    if (isBetter && fitOf(device, all - bytes).over === 0) best = { mask, cost, bytes };
  }
  if (!best) return null;
  const { mask } = best;
  return some.filter((_, i) => (mask & (1 << i)) !== 0).map((amount) => amount.class);
}
