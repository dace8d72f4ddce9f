import { nameAfter, type DeviceFacts } from '@bright-cellar/core';
import type { Database } from '../database/connect.js';
import { readSettings } from '../settings/index.js';

/** What an archive that begins now would be called, after the shop's pattern. @param at UTC */
export async function archiveName(
  db: Database,
  ticket: string,
  customer: string,
  facts: Pick<DeviceFacts, 'family' | 'model' | 'name' | 'serial'>,
  at: string,
): Promise<string> {
  const { namePattern } = await readSettings(db);
  return nameAfter(namePattern, {
    ticket,
    date: at.slice(0, 10),
    time: at.slice(11, 16).replace(':', ''),
    family: facts.family,
    model: facts.model,
    device: facts.name,
    serial: facts.serial.slice(-4),
    customer,
  });
}
