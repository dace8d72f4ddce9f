import type { Archive, Backup } from '@bright-cellar/contract';
import { countOf, formatBytes, knownOfBackup, type ProofOutcome } from '@bright-cellar/core';
import { useState } from 'react';
import { dateTime, day } from '../design/dates.js';
import { levelNames } from '../design/level-words.js';

interface Moment {
  at: number;
  label: string;
  tone: 'backup' | ProofOutcome;
}

/** Labels of marks from here on stand before their mark. */
const INWARD_PERCENT = 60;

/** An archive's life on a time axis: what each backup brought, above; each proof, below. */
export function ArchiveTimeline({ archive }: { archive: Archive }) {
  const moments: Moment[] = archive.backups.flatMap((backup) => [
    {
      at: Date.parse(backup.takenAt),
      label: `Backup, ${formatBytes(backup.newBytes)} new`,
      tone: 'backup' as const,
    },
    ...backup.proofs.map((proof) => ({
      at: Date.parse(proof.at),
      label:
        proof.outcome === 'damaged'
          ? 'Damaged'
          : proof.level === 'full'
            ? 'Proven'
            : levelNames[proof.level],
      tone: proof.outcome,
    })),
  ]);
  const first = Math.min(...moments.map((m) => m.at));
  const [last] = useState(() => Date.now());
  const place = (at: number) => (last > first ? ((at - first) / (last - first)) * 100 : 0);
  const labelled = moments.filter(
    (m, i) => i === moments.findIndex((other) => other.tone === m.tone),
  );
  // A proof's label that is turned inward from the right end stands where today would.
  const hasRoomForToday = labelled.every(
    ({ tone, at }) => tone === 'backup' || place(at) < INWARD_PERCENT,
  );
  return (
    <figure aria-label="Timeline" className="border border-line bg-surface px-6 pt-10 pb-9">
      <div className="relative h-1 bg-edge">
        {moments.map((moment) => (
          <span
            key={`${moment.tone} ${moment.at}`}
            title={`${moment.label}, ${dateTime(new Date(moment.at).toISOString())}`}
            className="absolute -translate-x-1/2"
            style={{
              left: `${place(moment.at)}%`,
              ...(moment.tone === 'backup' ? { bottom: 0 } : { top: 0 }),
            }}
          >
            <TimeMark tone={moment.tone} />
          </span>
        ))}
        {labelled.map((moment) => (
          <span
            key={`${moment.tone} label`}
            className="absolute text-small whitespace-nowrap"
            style={{
              ...side(place(moment.at)),
              ...(moment.tone === 'backup' ? { bottom: 10 } : { top: 10 }),
            }}
          >
            {moment.label}, {dateTime(new Date(moment.at).toISOString())}
          </span>
        ))}
        {hasRoomForToday && (
          <span className="absolute top-2.5 right-0 text-small text-soft">
            today, {day(new Date(last).toISOString())}
          </span>
        )}
      </div>
      {archive.backups.length > 1 && <Brought backups={archive.backups} />}
    </figure>
  );
}

/** What each backup added to the archive, newest first. */
function Brought({ backups }: { backups: readonly Backup[] }) {
  return (
    <ol aria-label="What each backup added" className="-mb-5 mt-9 border-t border-line text-small">
      {backups.map((backup) => (
        <li
          key={backup.id}
          className="grid grid-cols-[11rem_9rem_1fr_auto] gap-4 border-b border-line py-1 last:border-b-0"
        >
          <span>{dateTime(backup.takenAt)}</span>
          <span className="text-right font-semibold">{formatBytes(backup.newBytes)} new</span>
          <span className="text-soft">
            {formatBytes(backup.bytes)} in {countOf(backup.items, 'item')}, by {backup.takenBy}
          </span>
          <span>{lastLook(backup)}</span>
        </li>
      ))}
    </ol>
  );
}

/** How the newest look at a backup ended. */
function lastLook({ proofs }: Backup): string {
  const [newest] = proofs;
  if (!newest) return 'Not proven';
  const damage = proofs.find(({ outcome }) => outcome === 'damaged');
  if (damage && knownOfBackup(proofs).damaged) return `Damaged, ${dateTime(damage.at)}`;
  const name = newest.level === 'full' ? 'Proven' : levelNames[newest.level];
  return `${name}, ${dateTime(newest.at)}`;
}

/** A label beside its mark, turned inward near the right end. */
function side(percent: number): { left: string } | { right: string } {
  return percent < INWARD_PERCENT
    ? { left: `calc(${percent}% + 12px)` }
    : { right: `calc(${100 - percent}% + 12px)` };
}

function TimeMark({ tone }: { tone: Moment['tone'] }) {
  if (tone === 'backup') return <span className="block h-7 w-1.5 bg-ink" />;
  return <span className={`block h-4 w-1.5 ${tone === 'whole' ? 'bg-proven' : 'bg-danger'}`} />;
}
