import { join } from 'node:path';
import { commitChange, noChange } from '../commit/commit.js';
import { diskFailure, syncFile } from '../disk/durable.js';
import { encodeBlock } from '../format/chunk-index.js';
import { indexName, PENDING } from '../format/layout.js';
import { SealedWriter } from '../format/sealed-file.js';
import { namesOf } from '../open/archive-contents.js';
import { readBlocks } from '../open/blocks.js';
import type { OpenArchive } from '../open/open-archive.js';
import { rm, mkdirInside } from '../disk/medium.js';

const WORK = 'reindex';

export interface ReindexResult {
  /** Indexes that were missing or damaged. */
  damagedIndexes: string[];
  /** Packs that were read through, since no index spoke of them. */
  rebuilt: string[];
}

/**
 * Writes one index of everything, in place of all that are there. What only a lost one knew is found again in the packs.
 * Nothing happens where every index is whole.
 * @throws Failure `archive-damaged` when the roster is, `rack-full`, `rack-not-here`
 */
export async function reindexArchive(
  archive: OpenArchive,
  signal?: AbortSignal,
): Promise<ReindexResult> {
  const { files, roster, key } = archive;
  const { blocks, damagedIndexes, rebuilt } = await readBlocks(files, roster, key, signal);
  if (damagedIndexes.length + rebuilt.length === 0) return { damagedIndexes, rebuilt };
  try {
    const { root } = await files.work();
    const work = join(root, PENDING, WORK);
    await rm(work, { recursive: true, force: true });
    await mkdirInside(root, work, { mode: 0o700 });
    const index = new SealedWriter(join(work, 'chunks.index'), 'index', key);
    for (const block of blocks) index.append(encodeBlock(block));
    const facts = index.finish();
    await syncFile(index.path);
    await commitChange(archive, {
      ...noChange([WORK]),
      add: [
        {
          from: `${PENDING}/${WORK}/chunks.index`,
          to: indexName(index.id.toString('hex')),
          facts,
        },
      ],
      remove: namesOf('index', [...roster.files.keys()]),
    });
  } catch (error) {
    throw diskFailure(error);
  }
  return { damagedIndexes, rebuilt };
}
