import { Failure } from '@bright-cellar/core';
import type { FailedItem } from '@bright-cellar/contract';
import { agreedOf } from '../../agreements/index.js';
import { operationRow } from '../../engine/index.js';
import { noteOnly } from '../../kernel/unit-of-work.js';
import type { Context } from '../../shop.js';

/**
 * Each item that a backup did not take, as its device lists it now: what was kept of them is no more than the device's
 * own ids. Their names are shown, and the look noted, only where looking inside was agreed.
 * @throws Failure `not-found`, `device-not-here`, `device-not-ready`
 */
export async function failedItems(context: Context, operationId: string): Promise<FailedItem[]> {
  const { db, bench, planning } = context;
  const row = await operationRow(db, operationId);
  if (row.kind !== 'backup' || !row.result) {
    throw new Failure('not-found', { what: 'No item of that work failed.' });
  }
  const { input, result } = row;
  const facts = await bench.presentDevice(input.device.serial);
  const { entries } = await planning.listed(facts);
  const byId = new Map(entries.map((entry) => [entry.id, entry]));
  const { lookIn } = await agreedOf(db, input.ticketId);
  if (lookIn) {
    await noteOnly(context, {
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
