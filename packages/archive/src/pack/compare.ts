import { Failure } from '@bright-cellar/core';
import type { NewItem } from '../format/backup-lines.js';
import { SealedReader } from '../format/sealed-file.js';
import type { Secret } from '../keys/holders.js';
import { openState, readArchiveId } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { inOrder, listOf } from '../open/backup-list.js';
import { EarlierItems } from './earlier-items.js';

export interface Compared {
  /** In the newest backup as they are. */
  same: { items: number; bytes: number };
  toSend: { items: number; bytes: number };
}

/**
 * What of a source an archive's newest backup has as it is: what a backup of it would have to read.
 * @param onToSend told each item that it does not have
 * @throws Failure `archive-in-use`, `archive-not-here`, `wrong-password`, `archive-damaged`.
 */
export async function compareWithArchive<Item extends NewItem>(
  files: ArchiveFiles,
  secret: Secret,
  items: AsyncIterable<Item>,
  onToSend: (item: Item) => void = () => undefined,
): Promise<Compared> {
  const lease = await files.lease('shared');
  try {
    const archive = await readArchiveId(files);
    const { key, names, roster } = await openState(files, archive, secret);
    let earlier: EarlierItems | null = null;
    try {
      if (roster instanceof Failure) throw roster;
      const latest = inOrder(roster).at(-1)?.backup;
      if (latest) {
        const list = await SealedReader.open(files, listOf(names, latest), 'backup', key);
        earlier = await EarlierItems.read(list, false);
      }
      const compared: Compared = { same: { items: 0, bytes: 0 }, toSend: { items: 0, bytes: 0 } };
      for await (const item of items) {
        const isThere = (await earlier?.has(item)) ?? false;
        const amount = isThere ? compared.same : compared.toSend;
        amount.items += 1;
        amount.bytes += item.bytes;
        if (!isThere) onToSend(item);
      }
      return compared;
    } finally {
      // A device can leave while it is listed.
      earlier?.close();
      key.forget();
    }
  } finally {
    await lease.release();
  }
}
