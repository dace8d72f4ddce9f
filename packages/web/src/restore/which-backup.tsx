import { useQuery } from '@tanstack/react-query';
import type { RestoreChoices } from '@bright-cellar/contract';
import { countOf, formatBytes, restoreTroubles } from '@bright-cellar/core';
import { Link } from 'react-router';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { Serial } from '../design/serial.js';
import { placesOf, restorePath, whyProposed, type Restorable } from './restorable.js';

/** Why this backup goes back, or why another should; and the others of the same device. */
export function WhichBackup({ backupId }: { backupId: string }) {
  const choices = useQuery(queries.restoreChoices(backupId)).data;
  const own = choices?.backups.find(({ id }) => id === backupId);
  if (!choices || !own) return null;
  const others = choices.backups.filter(({ id }) => id !== backupId);
  const [newest] = choices.backups;
  return (
    <section aria-label="Which backup" className="flex flex-col gap-2 pt-3 text-small">
      <Why choices={choices} own={own} />
      <p className="text-soft">It lies on {placesOf(own)}.</p>
      {others.length > 0 && (
        <>
          <h3 className="font-semibold">Others of this device</h3>
          <ul className="flex flex-col">
            {others.map((one) => (
              <li key={one.id} className="border-t border-line py-1.5">
                <Link className="font-semibold underline" to={restorePath(one)}>
                  {dateTime(one.takenAt)}
                </Link>
                <span className="block text-soft">
                  {[
                    ...(one === newest ? ['the newest'] : [lackOf(one, newest)]),
                    ...one.troubles.map((trouble) => restoreTroubles[trouble]),
                  ].join('; ')}
                </span>
                <span className="block text-soft">
                  Ticket <Serial>{one.ticketNumber}</Serial>, on {placesOf(one)}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** How much less it holds than the newest, or more. */
function lackOf(one: Restorable, newest: Restorable | undefined): string {
  const [items, bytes] = newest ? [newest.items - one.items, newest.bytes - one.bytes] : [0, 0];
  if (items === 0) return 'as many items as the newest';
  if (items < 0) return `${countOf(-items, 'item')} more than the newest`;
  return `${countOf(items, 'item')} fewer than the newest${bytes > 0 ? `, ${formatBytes(bytes)}` : ''}`;
}

function Why({ choices, own }: { choices: RestoreChoices; own: Restorable }) {
  const { proposed, backups } = choices;
  if (own.id === proposed) return <p>{whyProposed(choices)}</p>;
  const better = backups.find(({ id }) => id === proposed);
  const troubles = own.troubles.map((trouble) => restoreTroubles[trouble]);
  return (
    <p role="note" className="border-l-4 border-danger pl-2">
      <strong>
        {troubles.length > 0
          ? `This backup ${troubles.join(', and ')}.`
          : 'This is not the newest backup of the device.'}
      </strong>{' '}
      {better ? (
        <>
          Better is that of {dateTime(better.takenAt)}:{' '}
          <Link className="underline" to={restorePath(better)}>
            take that one
          </Link>
          .
        </>
      ) : (
        <>
          {backups.length === 1
            ? 'There is no other of this device.'
            : 'Something speaks against every backup of this device.'}{' '}
          What is not proven is proven{' '}
          <Link className="underline" to={`/archives/${own.archiveId}`}>
            with its archive
          </Link>
          .
        </>
      )}
    </p>
  );
}
