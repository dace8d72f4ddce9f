import { Failure, serialTail, updateAdvice, type LinkDeviceId } from '@bright-cellar/core';
import { provenFor } from '../archives/index.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import { readSettings } from '../settings/index.js';
import type { Context } from '../shop.js';
import { mustBeFree } from './ready.js';

/** Has a device install its update, where the shop's policy allows it and somebody asked. Never by itself. */
export async function updateDevice(
  context: Context,
  deviceId: LinkDeviceId,
  typedTail: string,
): Promise<void> {
  const { db, bench } = context;
  const facts = await bench.freshFacts(deviceId);
  await mustBeFree(db, facts.serial);
  const { updatePolicy } = await readSettings(db);
  const { proven, ticket } = await provenFor(context, facts);
  const advice = updateAdvice(updatePolicy, facts, { proven: !('code' in proven) });
  if (!advice?.allowed) {
    throw new Failure('device-refused', {
      what: advice?.sentence ?? 'This device offers no update.',
      next: 'Leave the device as it is.',
    });
  }
  if (typedTail.toUpperCase() !== serialTail(facts.serial).toUpperCase())
    throw new Failure('wrong-serial');
  await noteOnly(context, {
    ticketId: ticket?.id ?? null,
    action: 'update-started',
    what: `Update to ${facts.osName} ${facts.osUpdate?.version ?? ''} started on ${facts.model} ${facts.serial}.`,
  });
  await bench.link.update(deviceId, facts.serial);
}
