import type { BackupSummary, OpenArchive } from '@bright-cellar/archive';
import { UsageError } from '../usage.js';

/** The backup that is meant by `latest`, an id, or the beginning of one. @throws UsageError. */
export function chooseBackup(archive: OpenArchive, wanted: string): BackupSummary {
  const { summaries } = archive.backups();
  const latest = summaries.at(-1);
  if (wanted === 'latest' && latest) return latest;
  const [found, another] = summaries.filter(({ header }) => header.backup.startsWith(wanted));
  if (!found) throw new UsageError(`There is no backup “${wanted}” in this archive.`);
  if (another) throw new UsageError(`More than one backup begins with “${wanted}”.`);
  return found;
}
