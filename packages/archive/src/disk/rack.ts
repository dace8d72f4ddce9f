import { statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { jsonOrNull } from '../tools/json.js';
import { renameDurably, writeFileDurably } from './durable.js';
import { readPlain } from './hostile.js';

/** Room on the drive that a rack's folder lies on, in bytes. */
export interface RackRoom {
  capacity: number;
  free: number;
}

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

/** Says on the medium which rack it is. @throws the system's error */
export async function markRack(folder: string, rack: string): Promise<void> {
  const draft = join(folder, `${MARKER}-${rack}`);
  const marker: z.infer<typeof markerSchema> = { format: 'bright-cellar-rack', version: 1, rack };
  await writeFileDurably(draft, `${JSON.stringify(marker)}\n`);
  await renameDurably(draft, join(folder, MARKER));
}

/** Which rack lies there now; null when none does. */
function rackAt(folder: string): string | null {
  try {
    const text = readPlain(join(folder, MARKER), MARKER_BYTES).toString('utf8');
    return markerSchema.safeParse(jsonOrNull(text)).data?.rack ?? null;
  } catch {
    return null;
  }
}

/** The rack itself lies there, not only a folder of its name. @throws Failure `rack-not-here`. */
export function mustBeRack(folder: string, rack: string): void {
  if (rackAt(folder) !== rack) throw new Failure('rack-not-here');
}

/** @throws Failure `rack-not-here` when the rack is not there. */
export async function rackRoom(folder: string, rack: string): Promise<RackRoom> {
  mustBeRack(folder, rack);
  try {
    const { blocks, bavail, bsize } = await statfs(folder);
    return { capacity: blocks * bsize, free: bavail * bsize };
  } catch (error) {
    throw new Failure('rack-not-here', {}, { cause: error });
  }
}
