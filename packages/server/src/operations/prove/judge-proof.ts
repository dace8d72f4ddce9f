import type { VerifyReport } from '@bright-cellar/archive';
import {
  countOf,
  dataClasses,
  dataClassIds,
  formatBytes,
  formatCount,
  takesBack,
  type BackupId,
  type CopyState,
  type ProofLevel,
  type ProofOutcome,
} from '@bright-cellar/core';

/** What the catalogue says of a copy before somebody looks at it. */
export interface KnownCopy {
  archiveId: string;
  generation: number;
  /** SHA-512 of its manifest. */
  digest: string;
  state: CopyState;
  checkedLevel: ProofLevel | null;
}

/** What the catalogue says of a backup. */
export interface KnownBackup {
  id: BackupId;
  items: number;
  bytes: number;
  listDigest: string;
}

export interface Judgement {
  backupId: BackupId;
  outcome: ProofOutcome;
  /** Read from its own list; 0 where it was not. */
  items: number;
  bytes: number;
  /** A sentence. */
  what: string;
}

/** What the catalogue says of a copy after a look. */
export interface CopyFound {
  state: ProofOutcome;
  generation?: number;
  digest?: string;
  storedBytes?: number;
}

/**
 * What a look says of the copy itself; null where it says nothing of the state in which it is now.
 * @param before what the catalogue said of it when the look began
 * @param now what it says when the look is over: something may have been added meanwhile
 */
export function judgeCopy(
  report: VerifyReport,
  before: KnownCopy,
  now: KnownCopy,
): CopyFound | null {
  const { contents, manifestDigest, storedBytes } = report;
  if (!report.whole || whyNotThisCopy(report, before) !== null) return { state: 'damaged' };
  const generation = contents?.generation ?? before.generation;
  if (generation < now.generation) return null;
  const damaged = now.state === 'damaged' && generation === now.generation && now.checkedLevel;
  if (damaged && !takesBack(report.level, damaged)) return null;
  // Whoever has the key may have changed it without this catalogue, or a change was cut off before it was recorded.
  return { state: 'whole', generation, digest: manifestDigest, storedBytes };
}

/**
 * What a look at a copy says of each backup that should be in it. The one place where that is decided: a backup is whole
 * when its own list was read and says what the catalogue says, and the copy is this archive's, in no older state than it
 * should have. Damage elsewhere in the archive does not make it less so, and is told.
 */
export function judgeProof(
  report: VerifyReport,
  copy: KnownCopy,
  backups: readonly KnownBackup[],
): Judgement[] {
  const wrongCopy = whyNotThisCopy(report, copy);
  const isNewer = (report.contents?.generation ?? 0) > copy.generation;
  return backups.map((backup) => {
    const seen = report.contents?.backups.find((b) => b.backup === backup.id);
    const found = { backupId: backup.id, items: seen?.items ?? 0, bytes: seen?.bytes ?? 0 };
    const damaged = (what: string) => ({ ...found, outcome: 'damaged' as const, what });
    if (wrongCopy !== null) return damaged(wrongCopy);
    if (report.contents === null) {
      return report.whole
        ? { ...found, outcome: 'whole' as const, what: wordsOf(report, 0) }
        : damaged(damageOf(report));
    }
    if (!seen) return damaged('This backup is not in the archive any more.');
    if (!seen.whole) return damaged(damageOf(report, seen));
    const agrees =
      seen.items === backup.items &&
      seen.bytes === backup.bytes &&
      // Sealed anew by somebody with the key, its list has another digest.
      (isNewer || seen.listDigest === backup.listDigest);
    if (!agrees) return damaged('This backup is not the one that was taken: its counts differ.');
    const beside = report.whole ? '' : ` Elsewhere in the archive: ${damageOf(report)}`;
    return { ...found, outcome: 'whole' as const, what: wordsOf(report, seen.items) + beside };
  });
}

function whyNotThisCopy(report: VerifyReport, copy: KnownCopy): string | null {
  const { contents } = report;
  if (contents === null) {
    return report.manifestDigest === copy.digest
      ? null
      : 'This copy is not in the state that the catalogue knows: only its password tells more.';
  }
  if (contents.archive !== copy.archiveId) return 'Another archive lies in the place of this one.';
  if (contents.generation === null) {
    return 'The roster, which says what belongs into the archive, is missing or damaged.';
  }
  if (contents.generation < copy.generation) {
    return 'This copy is an older state of the archive: later backups are not in it.';
  }
  return null;
}

/** What was looked at, as a sentence. */
export function wordsOf(report: VerifyReport, items: number): string {
  const stored = formatBytes(report.storedBytes);
  const { contents } = report;
  const words = {
    full: `Opened with its password, ${stored} checked byte by byte, ${countOf(items, 'item')} read back and compared.`,
    bytes: `${stored} checked byte by byte${contents ? ', lists and indexes opened' : ', without the password'}.`,
    sample: `Opened with its password, a sample of ${countOf(contents?.sampled ?? 0, 'item')} read back and compared.`,
    structure: contents
      ? 'Opened with its password; every file is there with its length, lists and indexes agree.'
      : 'Every file is there with its length.',
  };
  return words[report.level];
}

/** The damaged files, by our own names, and how many items they touch. */
export function damageOf({ damagedFiles }: VerifyReport, touched?: Touched): string {
  const [first = 'data', ...more] = damagedFiles;
  const others = more.length > 0 ? ` and ${formatCount(more.length)} more` : '';
  const items = touched?.damagedItems
    ? ` ${countOf(touched.damagedItems, 'item')} cannot be restored: ${classesIn(touched)}.`
    : '';
  return `“${first}”${others} is missing or is not what was written.${items}`;
}

type Touched = Pick<
  NonNullable<VerifyReport['contents']>['backups'][number],
  'damagedItems' | 'damagedClasses'
>;

/** By class, in the order of screens; names are the customer's. */
const classesIn = ({ damagedClasses }: Touched): string =>
  dataClassIds
    .flatMap((dataClass) => {
      const items = damagedClasses[dataClass];
      return items ? `${formatCount(items)} of ${dataClasses[dataClass].toLowerCase()}` : [];
    })
    .join(', ');
