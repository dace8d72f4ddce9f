import { chosenPartSchema, type BackupId, type ChosenPart } from '@bright-cellar/core';
import { and, desc, eq } from 'drizzle-orm';
import type { Database } from '../../database/connect.js';
import { operations } from '../../database/schema.js';
import { inputOf } from '../../engine/index.js';

/** So many of the newest loss reports of a backup are looked through. */
const LOOKED_THROUGH = 20;

/** What part of a backup was last asked for, for a device with that serial; null where none ever was. */
export async function lastPartAsked(
  db: Database,
  backupId: BackupId,
  serial: string,
): Promise<ChosenPart | null> {
  const rows = await db
    .select({ input: operations.input })
    .from(operations)
    .where(and(eq(operations.backupId, backupId), eq(operations.kind, 'foresee')))
    .orderBy(desc(operations.startedAt))
    .limit(LOOKED_THROUGH);
  const asked = rows
    .map(({ input }) => inputOf('foresee', input))
    .find((input) => input.serial === serial && input.lookIn === null);
  return asked ? chosenPartSchema.parse(asked) : null;
}
