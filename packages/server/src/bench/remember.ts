import { randomUUID } from 'node:crypto';
import { unreadSerial, type DeviceFacts, deviceIdSchema, type DeviceId } from '@bright-cellar/core';
import { desc, eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { devices } from '../database/schema.js';

/** Keeps what a device says of itself, for when it is gone. @returns its id in the catalogue. */
export async function rememberDevice(db: Database, facts: DeviceFacts): Promise<DeviceId> {
  const read = {
    family: facts.family,
    familyName: facts.familyName,
    kind: facts.kind,
    model: facts.model,
    name: facts.name,
    imei: facts.imei,
    osName: facts.osName,
    osVersion: facts.osVersion,
    capacity: facts.capacity,
    readFrom: 'cable' as const,
    seenAt: new Date(),
  };
  await db
    .insert(devices)
    .values({ id: deviceIdSchema.parse(randomUUID()), serial: facts.serial, ...read })
    .onDuplicateKeyUpdate({ set: read });
  const [row] = await db
    .select({ id: devices.id })
    .from(devices)
    .where(eq(devices.serial, facts.serial))
    .orderBy(desc(devices.seenAt));
  if (!row) throw new Error('a device was just written and is not there');
  return row.id;
}

/** Keeps what is printed on a device that cannot be read. @returns its id in the catalogue. */
export async function rememberTyped(
  db: Database,
  typed: {
    familyName: string;
    model: string;
    kind: 'phone' | 'tablet' | 'handset';
    serial: string;
    imei: string;
  },
): Promise<DeviceId> {
  if (typed.serial !== '') {
    const [known] = await db
      .select({ id: devices.id })
      .from(devices)
      .where(eq(devices.serial, typed.serial));
    if (known) return known.id;
  }
  const id = deviceIdSchema.parse(randomUUID());
  await db.insert(devices).values({
    id,
    serial: typed.serial || unreadSerial(id.slice(0, 8)),
    family: typed.familyName.toLowerCase(),
    familyName: typed.familyName,
    kind: typed.kind,
    model: typed.model,
    name: `${typed.familyName} ${typed.model}`,
    imei: typed.imei || null,
    osName: '',
    osVersion: '',
    capacity: 0,
    readFrom: 'typed',
    seenAt: new Date(),
  });
  return id;
}
