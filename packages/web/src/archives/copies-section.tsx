import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive, type Operation } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import { OctagonX } from 'lucide-react';
import { Link } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { levelNames } from '../design/level-words.js';
import { Mark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { Digest } from '../design/serial.js';

type Copy = Archive['copies'][number];

/** Where an archive lies: each copy with what was found of it, and what can be done about that. */
export function CopiesSection({
  archive,
  busy,
  onStarted,
}: {
  archive: Archive;
  busy: boolean;
  onStarted: (operation: Operation) => void;
}) {
  const client = useQueryClient();
  const begun = (operation: Operation) => {
    placeOperation(client, operation);
    onStarted(operation);
  };
  const check = useMutation({
    mutationFn: (id: string) => call(routes.startCheck, { params: { id }, body: {} }),
    onSuccess: begun,
  });
  const repair = useMutation({
    mutationFn: (id: string) => call(routes.startRepair, { params: { id }, body: {} }),
    onSuccess: begun,
  });
  const problem = check.error ?? repair.error;
  const other = (copy: Copy) =>
    archive.copies.find((c) => c.id !== copy.id && c.present && c.state !== 'damaged');
  return (
    <Section title="Where it lies">
      {problem && <ProblemNote problem={problemFrom(problem)} />}
      {archive.copies.map((copy) => (
        <div key={copy.id} className="flex flex-col gap-1 border border-line bg-surface p-3">
          <p>
            <Link className="font-semibold underline" to={`/racks/${copy.rackId}`}>
              {copy.rackName}
            </Link>
            , {formatBytes(copy.storedBytes)},{' '}
            {copy.present ? 'there now' : 'not there now: connect the drive'}
          </p>
          {!copy.isNewest && (
            <p className="font-semibold">An older state: later backups are not in it.</p>
          )}
          {copy.state === 'damaged' && (
            <p>
              <Mark icon={<OctagonX />} tone="danger">
                Damaged
              </Mark>
            </p>
          )}
          <p className="text-small text-soft">{lookWords(copy)}</p>
          <Digest>{copy.folder}</Digest>
          {copy.present && (
            <span className="mt-1 flex flex-wrap gap-2">
              {copy.state === 'damaged' && other(copy) && (
                <MayButton
                  permission={routes.startRepair.access}
                  look="main"
                  disabled={busy}
                  busy={repair.isPending && repair.variables === copy.id}
                  onClick={() => repair.mutate(copy.id)}
                >
                  Repair it from {other(copy)?.rackName}
                </MayButton>
              )}
              <MayButton
                permission={routes.startCheck.access}
                disabled={busy}
                busy={check.isPending && check.variables === copy.id}
                onClick={() => check.mutate(copy.id)}
              >
                Read it back now
              </MayButton>
            </span>
          )}
        </div>
      ))}
    </Section>
  );
}

/** What the last look at a copy found. */
function lookWords({ state, checkedAt, checkedLevel }: Copy): string {
  if (state === 'unknown' || !checkedAt || !checkedLevel) return 'Not looked at in this state.';
  const level = levelNames[checkedLevel].toLowerCase();
  return `${state === 'whole' ? 'Whole' : 'Damaged'}, ${level}, ${dateTime(checkedAt)}`;
}
