import { deviceLock, Failure, stillUnmet, type Condition } from '@bright-cellar/core';
import type { Database } from '../database/connect.js';
import { isHeld } from '../engine/index.js';

/** @param accepted ids of conditions whose price somebody accepted. @throws Failure `device-not-ready`, `device-in-use`. */
export function mustBeReady(
  conditions: readonly Condition[],
  accepted: readonly string[] = [],
): void {
  const [unmet] = stillUnmet(conditions, accepted);
  if (!unmet) return;
  if (unmet.id === 'empty') throw new Failure('device-in-use', { next: unmet.remedy ?? '' });
  throw new Failure('device-not-ready', {
    what: `The device is not ready: ${unmet.label.toLowerCase()} is not met (${unmet.reading}).`,
    next: unmet.remedy ?? '',
  });
}

/** Nothing else may be running on the device. Its lock says so too; this says it before anything is asked. */
export async function mustBeFree(db: Database, serial: string): Promise<void> {
  if (await isHeld(db, deviceLock(serial))) throw new Failure('device-busy');
}
