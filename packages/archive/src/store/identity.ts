import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { jsonOrNull } from '../tools/json.js';
import { readWhole } from './read.js';
import type { Files, Room, Store } from './store.js';

/**
 * A file on the rack that says which one it is. The folder of a drive that is not mounted is there all the same, on
 * the system's own disk: without this, backups would go there.
 */
const MARKER = '.bright-cellar-rack';
const MARKER_BYTES = 4096;
const markerSchema = z.object({
  format: z.literal('bright-cellar-rack'),
  version: z.literal(1),
  rack: z.uuid(),
});

/** Says on the medium which rack it is. @throws the store's error */
export async function markRack(store: Store, rack: string): Promise<void> {
  const marker: z.infer<typeof markerSchema> = { format: 'bright-cellar-rack', version: 1, rack };
  await store.put(MARKER, `${JSON.stringify(marker)}\n`, 'over');
}

/** Which rack lies there, by its marker; null when none does. @throws Failure `rack-not-here` where it says why */
export async function markedRack(files: Files): Promise<string | null> {
  try {
    const text = (await readWhole(files, MARKER, MARKER_BYTES)).toString('utf8');
    return markerSchema.safeParse(jsonOrNull(text)).data?.rack ?? null;
  } catch (error) {
    // Somebody says why it cannot be asked.
    if (error instanceof Failure) throw error;
    return null;
  }
}

/** The rack itself lies there, not only a place of its name. @throws Failure `rack-not-here`. */
export async function mustBeRack(store: Store, rack: string): Promise<void> {
  if ((await store.identity()) !== rack) throw new Failure('rack-not-here');
}

/** @throws Failure `rack-not-here` when the rack is not there. */
export async function rackRoom(store: Store, rack: string): Promise<Room> {
  await mustBeRack(store, rack);
  try {
    return await store.room();
  } catch (error) {
    throw new Failure('rack-not-here', {}, { cause: error });
  }
}
