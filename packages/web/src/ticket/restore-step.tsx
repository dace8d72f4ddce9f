import { useQuery } from '@tanstack/react-query';
import type { Ticket } from '@bright-cellar/contract';
import { queries } from '../api/queries.js';
import { ButtonLink } from '../design/button.js';
import { dateTime } from '../design/dates.js';
import { Serial } from '../design/serial.js';
import { placesOf, restorePath, whyProposed } from '../restore/restorable.js';

/** Which backup goes back, of all that the shop has of this device, with why, and the way to it. */
export function RestoreStep({
  step,
  ticket,
}: {
  step: Ticket['runSheet'][number];
  ticket: Ticket;
}) {
  const hasOwn = ticket.archiveIds.length > 0;
  const isOpen = step.state === 'ready' || step.state === 'done';
  // Somebody may come back with another device, and without the one whose backup is here from the last time.
  const isEarlier = step.state === 'waiting' && !hasOwn;
  const choices = useQuery({
    ...queries.ticketRestoreChoices(ticket.number),
    enabled: isOpen || isEarlier,
  }).data;
  if (!choices) return null;
  const proposed = choices.backups.find(({ id }) => id === choices.proposed);
  const own = choices.backups.find(({ archiveId }) => ticket.archiveIds.includes(archiveId));
  const one = proposed ?? (isOpen ? own : undefined);
  if (!one) return null;
  const isOfThis = one.ticketNumber === ticket.number;
  return (
    <>
      {step.state !== 'done' && (
        <p className="text-soft">
          {isEarlier ? 'There is one from before: that of ' : 'What goes back: that of '}
          {dateTime(one.takenAt)}
          {!isOfThis && (
            <>
              , of ticket <Serial>{one.ticketNumber}</Serial>
            </>
          )}
          , on {placesOf(one)}.{' '}
          {proposed ? whyProposed(choices) : 'The restore says what speaks against it.'}
        </p>
      )}
      <div>
        <ButtonLink look={step.state === 'ready' ? 'main' : 'plain'} to={restorePath(one)}>
          {isEarlier
            ? 'Open the restore with it'
            : step.state === 'done'
              ? 'Restore again'
              : 'Open the restore'}
        </ButtonLink>
      </div>
    </>
  );
}
