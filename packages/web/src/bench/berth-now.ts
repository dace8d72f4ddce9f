import {
  firstUnmet,
  formatDurationRange,
  phaseName,
  writeReadiness,
  type DeviceFacts,
} from '@bright-cellar/core';
import type { BenchView, Berth, Operation } from '@bright-cellar/contract';

/** What a berth says, from a step and a half away. */
export interface BerthNow {
  sentence: string;
  /** Whether somebody must do something: the lamp goes on. */
  needs: boolean;
  /** How far the work on it is, 0 to 1; null when nothing runs. */
  share: number | null;
}

export function operationShare({ doneBytes, totalBytes }: Operation): number {
  return totalBytes > 0 ? Math.min(1, doneBytes / totalBytes) : 0;
}

export function timeLeft({ leftLowMs, leftHighMs }: Operation): string | null {
  return leftLowMs === null || leftHighMs === null
    ? null
    : formatDurationRange(leftLowMs, leftHighMs);
}

export function berthNow(
  berth: Berth,
  { away: absent }: Pick<BenchView, 'away'>,
  operation: Operation | undefined,
): BerthNow {
  const { device } = berth;
  if (operation) {
    if (operation.needs) return { sentence: operation.needs, needs: true, share: null };
    if (operation.state === 'paused') {
      return { sentence: 'Paused. Let it go on.', needs: true, share: operationShare(operation) };
    }
    const left = timeLeft(operation);
    const sentence = phaseName(operation.kind, operation.phase) + (left ? `, ${left} left` : '');
    return {
      sentence,
      needs: false,
      share: operation.totalBytes > 0 ? operationShare(operation) : null,
    };
  }
  if (berth.odd.length > 0) {
    return {
      sentence: `Take this device off: what it says of itself cannot be so (${berth.odd.join(', ')}).`,
      needs: true,
      share: null,
    };
  }
  if (!device) {
    const away = absent.find((a) => a.berth === berth.number);
    return away
      ? { sentence: `${away.name} is away. Leave its cable free.`, needs: false, share: null }
      : { sentence: 'Free', needs: false, share: null };
  }
  // What only costs some of the contents is asked about on the ticket, not from a step and a half away.
  const must = berth.readiness.filter((c) => c.weight === 'must');
  const unmet = firstUnmet(must)?.remedy ?? emptyDeviceNeeds(device);
  if (unmet) return { sentence: unmet, needs: true, share: null };
  if (device.empty) return { sentence: 'Empty. Can take a restore.', needs: false, share: null };
  if (!berth.ticketNumber) return { sentence: 'Open a ticket for it.', needs: true, share: null };
  return { sentence: 'Open and readable.', needs: false, share: null };
}

/** An empty device has no backup to be made ready for, but must be ready to be written. */
function emptyDeviceNeeds(device: DeviceFacts): string | null {
  return device.empty && device.activity === 'idle'
    ? (firstUnmet(writeReadiness(device))?.remedy ?? null)
    : null;
}

/** Where a press on a berth leads. */
/**
 * Where files go that are dragged onto a berth: onto its device, on its ticket. A device without one is somebody's replacement
 * where only one ticket is on the bench; otherwise a ticket is opened for it first, and finds them.
 * @returns null where nothing is there to take them, or nobody can tell whose an empty device is
 */
export function dropPath(berth: Berth, bench: readonly Berth[]): string | null {
  if (!berth.device) return null;
  const others = new Set(bench.flatMap(({ ticketNumber }) => ticketNumber ?? []));
  const ticket = berth.ticketNumber ?? (others.size === 1 ? [...others][0] : undefined);
  if (ticket !== undefined) return `/tickets/${ticket}/applications-back?onto=${berth.device.id}`;
  return berth.device.empty ? null : berthPath(berth);
}

export function berthPath(berth: Berth): string {
  if (berth.ticketNumber) return `/tickets/${berth.ticketNumber}`;
  if (berth.device && !berth.device.empty) return `/tickets/new/${berth.device.id}`;
  return '/';
}
