import { crossingReadiness, deviceLock, Failure, judgePackage, roomFor } from '@bright-cellar/core';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import { ticketForWork } from '../../tickets/index.js';
import type { Start } from '../start.js';
import { packagesOf } from './packages.js';

export const startBringApplications: Start<'bringApplications'> = async (
  context,
  { number },
  body,
) => {
  const { ticket } = await ticketForWork(context.db, number);
  const facts = await context.bench.freshFacts(body.deviceId);
  await mustBeFree(context.db, facts.serial);
  mustBeReady(crossingReadiness(facts));
  if (!facts.serial.toUpperCase().endsWith(body.serialTail.toUpperCase())) {
    throw new Failure('wrong-serial');
  }
  const there = await packagesOf(context, number);
  const chosen = body.packages.map(({ rackId, name }) => {
    const about = there.find((one) => one.rackId === rackId && one.name === name)?.about;
    if (!about) throw new Failure('not-found', { what: 'A package that was chosen is not there.' });
    const { stays } = judgePackage(about, facts);
    if (stays !== null) throw new Failure('device-not-ready', { what: stays });
    return { rackId, name, about };
  });
  const expected = {
    items: chosen.reduce((sum, { about }) => sum + about.files, 0),
    bytes: chosen.reduce((sum, { about }) => sum + about.bytes, 0),
  };
  mustBeReady([roomFor(facts, expected.bytes)]);
  const target = `${facts.familyName} ${facts.model} ${facts.serial}`;
  return startOperation(
    context,
    {
      kind: 'bringApplications',
      locks: [deviceLock(facts.serial)],
      ...{ ticketId: ticket.id, ticketNumber: number, archiveId: null, backupId: null },
      deviceId: facts.id,
      deviceName: target,
      what: `Applications are brought back onto ${target}: ${chosen.map(({ about }) => about.name).join(', ')}.`,
      input: {
        ...{ serial: facts.serial, family: facts.family, ticket: number, expected },
        packages: chosen.map(({ rackId, name }) => ({ rackId, name })),
        adds: facts.capabilities.takes?.adds === true,
      },
    },
    {},
  );
};
