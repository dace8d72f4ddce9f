import { join } from 'node:path';
import { backupReadiness, extractSetNames, Failure, type ExtractFormat } from '@bright-cellar/core';
import type { NewExtract, Operation } from '@bright-cellar/contract';
import { deviceLock, startOperation } from './operations.js';
import { rackWithRoom } from './racks.js';
import { mustBeFree, mustBeReady, type Shop } from './shop.js';
import { agreedOf, ticketForWork } from './visits.js';

/** Said wherever an open file is asked for that the customer did not agree to. */
export const OPEN_FILE_NOT_AGREED =
  'An open file can be read by anybody: the customer has not agreed that the shop looks inside.';

/** Takes one narrow set, or single applications, out of a ticket's device into open files on a rack. */
export async function startExtract(
  shop: Shop,
  number: string,
  wanted: NewExtract,
  technicianId: string,
): Promise<Operation> {
  const { db, bench, orders } = shop;
  const { ticket, device } = await ticketForWork(db, number);
  const agreed = await agreedOf(db, ticket.id);
  if (!agreed.backup || !agreed.lookIn) {
    throw new Failure('not-agreed', { what: OPEN_FILE_NOT_AGREED });
  }
  const facts = await bench.presentDevice(device.serial);
  await mustBeFree(db, facts.serial);
  const conditions = backupReadiness(facts);
  // What is sealed fails by itself and is told; nothing else is lost by it.
  mustBeReady(
    conditions,
    conditions.map((c) => c.id),
  );
  const rack = await rackWithRoom(db, wanted.rackId, 0);
  const { what } = wanted;
  const groups = what.kind === 'applications' ? await bench.link.groups(facts.id) : [];
  return startOperation(
    db,
    orders,
    {
      kind: 'extract',
      locks: [deviceLock(facts.serial)],
      phase: 'taking',
      ticketId: ticket.id,
      deviceId: facts.id,
      deviceName: facts.name,
      archiveId: null,
      backupId: null,
      startedBy: technicianId,
      action: 'extract-started',
      what:
        what.kind === 'records'
          ? `Taking out: ${extractSetNames[what.set].toLowerCase()}, onto ${rack.name}.`
          : `Taking out: ${what.applications.length} applications, onto ${rack.name}.`,
      input: {
        kind: 'extract',
        folder: join(rack.path, 'extracts', number),
        rack: { id: rack.id, path: rack.path },
        revision: facts.contentRevision,
        what:
          what.kind === 'records'
            ? { ...what, fileName: fileName(number, what) }
            : {
                kind: 'applications',
                applications: what.applications.map((id) => ({
                  id,
                  name: groups.find((g) => g.class === 'applications' && g.id === id)?.name ?? id,
                })),
                device: {
                  family: facts.family,
                  model: facts.model,
                  serial: facts.serial,
                  osVersion: facts.osVersion,
                },
              },
      },
    },
    '',
  );
}

/** A format's name is its file's ending. One file that is added to keeps its name; a new one each time carries its moment. */
function fileName(
  number: string,
  what: { set: string; format: ExtractFormat; append: boolean },
): string {
  const when = what.append ? '' : `_${new Date().toISOString().slice(0, 19).replace(/[:T]/g, '-')}`;
  return `${number}_${what.set}${when}.${what.format}`;
}
