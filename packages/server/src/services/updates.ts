import { Failure, serialTail, updateAdvice } from '@bright-cellar/core';
import { noteAudit } from './audit.js';
import { provenFor } from './erases.js';
import { readSettings } from './settings.js';
import { mustBeFree, type Shop } from './shop.js';

/** Has a device install its update, where the shop's policy allows it and somebody asked. Never by itself. */
export async function updateDevice(
  shop: Shop,
  deviceId: string,
  typedTail: string,
  technicianId: string,
): Promise<void> {
  const facts = await shop.bench.freshFacts(deviceId);
  await mustBeFree(shop.db, facts.serial);
  const { updatePolicy } = await readSettings(shop.db);
  const { proven, ticketId } = await provenFor(shop, facts);
  const advice = updateAdvice(updatePolicy, facts, { proven: !('code' in proven) });
  if (!advice?.allowed) {
    throw new Failure('device-refused', {
      what: advice?.sentence ?? 'This device offers no update.',
      next: 'Leave the device as it is.',
    });
  }
  if (typedTail.toUpperCase() !== serialTail(facts.serial).toUpperCase())
    throw new Failure('wrong-serial');
  await noteAudit(shop.db, {
    technicianId,
    ticketId,
    action: 'update-started',
    what: `Update to ${facts.osName} ${facts.osUpdate?.version ?? ''} started on ${facts.model} ${facts.serial}.`,
  });
  await shop.bench.link.update(deviceId, facts.serial);
}
