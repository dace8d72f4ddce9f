import { Failure } from '@bright-cellar/core';
import type { FailedItem } from '@bright-cellar/contract';
import { noteAudit } from './audit.js';
import { operationRow } from './operations.js';
import type { Planning } from './planning.js';
import type { Shop } from './shop.js';
import { agreedOf } from './visits.js';

/**
 * Each item that a backup did not take, as its device lists it now: what was kept of them is no more than the device's
 * own ids. Their names are shown, and the look noted, only where looking inside was agreed.
 * @throws Failure `not-found`, `device-not-here`, `device-not-ready`
 */
export async function failedItems(
  { db, bench }: Shop,
  planning: Planning,
  operationId: string,
  technicianId: string,
): Promise<FailedItem[]> {
  const { input, result } = await operationRow(db, operationId);
  if (input.kind !== 'backup' || !result) {
    throw new Failure('not-found', { what: 'No item of that work failed.' });
  }
  const facts = await bench.presentDevice(input.device.serial);
  const { entries } = await planning.listed(facts);
  const byId = new Map(entries.map((entry) => [entry.id, entry]));
  const { lookIn } = await agreedOf(db, input.ticketId);
  if (lookIn) {
    await noteAudit(db, {
      technicianId,
      ticketId: input.ticketId,
      action: 'contents-listed',
      what: 'The items that a backup did not take were listed with their names.',
    });
  }
  return result.failed.flatMap(({ class: dataClass, reason, ids = [] }) =>
    ids.flatMap((id) => {
      const entry = byId.get(id);
      return entry
        ? [
            {
              class: dataClass,
              reason,
              // Below its class's folder: a month's name alone says nothing of whose messages they are.
              name: lookIn ? entry.path.split('/').slice(1).join('/') : null,
              bytes: entry.bytes,
              modified: new Date(entry.modified).toISOString(),
            },
          ]
        : [];
    }),
  );
}
