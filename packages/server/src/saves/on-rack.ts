import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mustBeRack, piecesOf, readWhole, type Store } from '@bright-cellar/archive';
import { Failure, savesKept } from '@bright-cellar/core';
import { z } from 'zod';

/** What lies on a rack of one installation’s catalogue: written before a save comes and after it was read back. */
const indexSchema = z.object({
  format: z.literal('bright-cellar-saves'),
  version: z.literal(1),
  saves: z.array(
    z.object({
      name: z.string().regex(/^\.catalogue-[\da-f]{8}-\d{8}T\d{9}Z-\d+\.age$/),
      savedAt: z.iso.datetime(),
      /** How many of the program’s steps its tables have. */
      migrations: z.int(),
      bytes: z.int(),
      sha256: z.string().regex(/^[\da-f]{64}$/),
      /** It was read back from the medium. */
      whole: z.boolean(),
    }),
  ),
});
type Index = z.infer<typeof indexSchema>;
const INDEX_BYTES = 64 * 2 ** 10;

/** A save that was made, in a file of this computer. */
export interface MadeSave {
  path: string;
  savedAt: Date;
  /** How many of the program’s steps its tables have. */
  migrations: number;
  bytes: number;
  sha256: string;
}

const indexName = (installation: string) => `.catalogue-${installation}.json`;
/** `.catalogue-1a2b3c4d-20261128T031500000Z-28.age` */
export const saveName = (
  installation: string,
  { savedAt, migrations }: Pick<MadeSave, 'savedAt' | 'migrations'>,
): string =>
  `.catalogue-${installation}-${savedAt.toISOString().replaceAll(/[-:.]/g, '')}-${migrations}.age`;

/** What a save is of, by its name; null where that is no save’s. */
export function saveNamed(name: string): Pick<MadeSave, 'savedAt' | 'migrations'> | null {
  const found =
    /^\.catalogue-[\da-f]{8}-(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)(\d{3})Z-(\d+)\.age$/.exec(name);
  if (!found) return null;
  const [, year, month, day, hours, minutes, seconds, ms, migrations] = found;
  const savedAt = new Date(`${year}-${month}-${day}T${hours}:${minutes}:${seconds}.${ms}Z`);
  return { savedAt, migrations: Number(migrations) };
}

/**
 * Puts a save onto a rack, reads it back from the medium, and takes away those that the rule lets go: never before the new one
 * was read back. Cut off at any point, the next one clears up.
 * @param installation eight hexadecimal digits that tell this installation from others on the same rack
 * @throws Failure `rack-not-here`, `archive-damaged` where what was written reads otherwise; the store’s error
 */
export async function putOnRack(
  { id, store }: { id: string; store: Store },
  installation: string,
  made: MadeSave,
): Promise<string> {
  await mustBeRack(store, id);
  const index = await readIndex(store, installation);
  const name = saveName(installation, made);
  const { bytes, sha256, migrations } = made;
  const savedAt = made.savedAt.toISOString();
  const entry = { name, savedAt, migrations, bytes, sha256, whole: false };
  index.saves = [...index.saves.filter((save) => save.name !== name), entry];
  await writeIndex(store, installation, index);
  await store.put(name, createReadStream(made.path), 'over');
  if ((await digestOn(store, name)) !== made.sha256) {
    throw new Failure('archive-damaged', {
      what: 'The saved catalogue reads otherwise than it was written.',
      safe: 'Earlier saves there are as they were.',
      next: 'Check this rack: it may be failing.',
    });
  }
  entry.whole = true;
  const whole = index.saves.filter((save) => save.whole);
  const kept = savesKept(whole.map((save) => ({ ...save, at: Date.parse(save.savedAt) })));
  const stay = new Set([...kept].map((save) => save.name));
  for (const save of index.saves) if (!stay.has(save.name)) await store.remove(save.name);
  index.saves = index.saves.filter((save) => stay.has(save.name));
  await writeIndex(store, installation, index);
  return name;
}

async function digestOn(store: Store, name: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const piece of piecesOf(store, name, { from: 'medium' })) hash.update(piece);
  return hash.digest('hex');
}

/** One that is not there, or is not what it should be, is begun anew: saves are found by their names too. */
async function readIndex(store: Store, installation: string): Promise<Index> {
  const none: Index = { format: 'bright-cellar-saves', version: 1, saves: [] };
  try {
    const text = (await readWhole(store, indexName(installation), INDEX_BYTES)).toString('utf8');
    return indexSchema.parse(JSON.parse(text));
  } catch (error) {
    if (error instanceof z.ZodError || error instanceof SyntaxError) return none;
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return none;
    throw error;
  }
}

const writeIndex = (store: Store, installation: string, index: Index) =>
  store.put(indexName(installation), `${JSON.stringify(index, null, 1)}\n`, 'over');
