import {
  backupReadiness,
  deviceLock,
  applicationOf,
  extractSetName,
  Failure,
  type ExtractFormat,
} from '@bright-cellar/core';
import { agreedOf } from '../../agreements/index.js';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import { rackWithRoom } from '../../racks/index.js';
import { ticketForWork } from '../../tickets/index.js';
import type { Start } from '../start.js';

/** Said wherever an open file is asked for that the customer did not agree to. */
export const OPEN_FILE_NOT_AGREED =
  'An open file can be read by anybody: the customer has not agreed that the shop looks inside.';

/** Takes one narrow set, or single applications, out of a ticket's device into open files on a rack. */
export const startExtract: Start<'extract'> = async (context, { number }, wanted) => {
  const { db, bench } = context;
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
  const groups = await bench.link.groups(facts.id);
  const applicationOn = (id: string) =>
    groups.find((g) => g.class === 'applications' && g.id === id);
  return startOperation(
    context,
    {
      kind: 'extract',
      locks: [deviceLock(facts.serial)],
      ticketId: ticket.id,
      ticketNumber: number,
      deviceId: facts.id,
      deviceName: facts.name,
      archiveId: null,
      backupId: null,
      what:
        what.kind === 'records'
          ? `Taking out: ${extractSetName(what.set, applicationOn(applicationOf(what.set) ?? '')?.name).toLowerCase()}, onto ${rack.name}.`
          : `Taking out: ${what.applications.length} applications, onto ${rack.name}.`,
      input: {
        rackId: rack.id,
        ticket: number,
        revision: facts.contentRevision,
        what:
          what.kind === 'records'
            ? { ...what, fileName: fileName(number, what, context.clock.now()) }
            : {
                kind: 'applications',
                applications: what.applications.map((id) => ({
                  id,
                  name: applicationOn(id)?.name ?? id,
                  version: applicationOn(id)?.version ?? null,
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
    {},
  );
};

/** A format's name is its file's ending. One file that is added to keeps its name; a new one each time carries its moment. */
function fileName(
  number: string,
  what: { set: string; format: ExtractFormat; append: boolean },
  now: Date,
): string {
  const when = what.append ? '' : `_${now.toISOString().slice(0, 19).replace(/[:T]/g, '-')}`;
  return `${number}_${what.set.replace('/', '-')}${when}.${what.format}`;
}
