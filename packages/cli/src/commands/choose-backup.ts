import type { BackupSummary, OpenArchive } from '@bright-cellar/archive';
import { UsageError } from '../usage.js';

/**
 * The backup that is meant by `latest`, an id, or the beginning of one.
 * @throws UsageError; Failure `archive-damaged` when the newest there should be cannot be read: no older one stands in for it.
 */
export async function chooseBackup(archive: OpenArchive, wanted: string): Promise<BackupSummary> {
  if (wanted === 'latest') return archive.latest();
  const { summaries } = await archive.backups();
  const [found, another] = summaries.filter(({ header }) => header.backup.startsWith(wanted));
  if (!found) throw new UsageError(`There is no backup “${wanted}” in this archive.`);
  if (another) throw new UsageError(`More than one backup begins with “${wanted}”.`);
  return found;
}
