import { Failure } from '@bright-cellar/core';
import { lockArchive } from '../disk/lock.js';
import type { NewItem } from '../format/backup-lines.js';
import { SealedReader } from '../format/sealed-file.js';
import type { Secret } from '../keys/holders.js';
import { join } from 'node:path';
import { openKey, openRoster, payloadNames, readArchiveId } from '../open/archive-folder.js';
import { inOrder, listOf } from '../open/backup-list.js';
import { EarlierItems } from './earlier-items.js';
import { findRoot } from './workspace.js';

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
  folder: string,
  secret: Secret,
  items: AsyncIterable<Item>,
  onToSend: (item: Item) => void = () => undefined,
): Promise<Compared> {
  const lock = await lockArchive(folder);
  try {
    if ((await findRoot(folder)) !== folder) throw new Failure('archive-not-here');
    const names = await payloadNames(folder);
    const key = await openKey(folder, names, secret);
    let earlier: EarlierItems | null = null;
    try {
      const roster = openRoster(folder, names, key, await readArchiveId(folder));
      const latest = inOrder(roster).at(-1)?.backup;
      if (latest) {
        const list = new SealedReader(join(folder, listOf(names, latest)), 'backup', key);
        earlier = await EarlierItems.read(list, false);
      }
      const compared: Compared = { same: { items: 0, bytes: 0 }, toSend: { items: 0, bytes: 0 } };
      for await (const item of items) {
        const isThere = earlier?.has(item) ?? false;
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
    await lock.release();
  }
}
