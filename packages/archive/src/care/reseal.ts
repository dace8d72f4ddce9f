import type { ChunkEntry, PackBlock } from '../format/chunk-index.js';
import { ChunkOpener } from '../open/chunk-opener.js';
import type { OpenArchive } from '../open/open-archive.js';
import type { ChunkSealer } from '../pack/chunk-sealer.js';
import { collectGarbage, COLLECT_EVERY_BYTES } from '../tools/collect.js';

/**
 * Seals chunks of one pack anew. Memory does not grow with the pack, and other work of this thread has its
 * turn now and then.
 * @param onSealed hears each chunk's id and the id under which it was sealed.
 * @throws Failure `archive-damaged`; `signal`'s reason.
 */
export async function resealChunks(
  archive: OpenArchive,
  { pack }: PackBlock,
  chunks: Iterable<ChunkEntry>,
  sealer: ChunkSealer,
  options: { onSealed?: (id: Buffer, now: Buffer) => void; signal?: AbortSignal | undefined },
): Promise<void> {
  const { onSealed, signal } = options;
  const opener = new ChunkOpener(archive.files, [pack], archive.key);
  let sealed = 0;
  try {
    for (const { id, ...place } of chunks) {
      signal?.throwIfAborted();
      const now = sealer.add(await opener.open(id, { pack: 0, ...place }));
      onSealed?.(id, now);
      sealed += place.plain;
      if (sealed < COLLECT_EVERY_BYTES) continue;
      sealed = 0;
      await collectGarbage();
    }
  } finally {
    opener.close();
  }
  await collectGarbage();
}
