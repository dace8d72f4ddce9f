import { useQuery } from '@tanstack/react-query';
import type { Operation, Ticket } from '@bright-cellar/contract';
import {
  countedOf,
  countOf,
  dataClasses,
  formatCount,
  goesOver,
  stayReasons,
  type ClassAmount,
  type ClassCrossing,
} from '@bright-cellar/core';
import { queries } from '../api/queries.js';
import { ButtonLink } from '../design/button.js';
import { Note } from '../design/note.js';

/** Class by class, what the backup holds beside what the device holds as it is read now: for looking through it with the customer. */
export function CheckCounts({ ticket }: { ticket: Ticket }) {
  const last = ticket.operations.find(
    (one) => (one.kind === 'restore' || one.kind === 'cross') && one.state === 'done',
  );
  const archive = useQuery({
    ...queries.archive(last?.archiveId ?? ''),
    enabled: last?.archiveId != null,
  }).data;
  const bench = useQuery(queries.bench()).data;
  const backup = archive?.backups.find((one) => one.id === last?.backupId);
  if (!last || !backup || !bench) return null;
  const device = bench.berths.find((berth) => berth.device?.id === last.deviceId)?.device ?? null;
  const report = reportOf(last);
  return (
    <section aria-label="Backup beside device" className="flex flex-col gap-2">
      <table className="w-full border-collapse text-small">
        <thead>
          <tr className="text-left text-soft">
            <th className="py-1 font-normal">Class</th>
            <th className="text-right font-normal">In the backup</th>
            <th className="pl-4 text-right font-normal">On the device now</th>
            <th className="w-1/2 pl-4 font-normal">What that means</th>
          </tr>
        </thead>
        <tbody>
          {backup.classes.map((amount) => {
            const now = device?.content?.find((one) => one.class === amount.class)?.items ?? 0;
            const line = report?.find((one) => one.class === amount.class);
            return (
              <tr key={amount.class} className="border-t border-line align-top">
                <th className="py-1 text-left font-normal whitespace-nowrap">
                  {dataClasses[amount.class]}
                </th>
                <td className="py-1 text-right">{formatCount(amount.items)}</td>
                <td className="py-1 pl-4 text-right">{device?.content ? formatCount(now) : '–'}</td>
                <td className="py-1 pl-4">
                  {report ? crossed(line) : device?.content ? compared(amount, now) : ''}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {!device?.content && (
        <Note>
          {device
            ? 'The device does not let itself be read now: unlock it, and let it approve this bench.'
            : 'Connect the device once more to read what it holds now.'}
        </Note>
      )}
      <p className="text-small text-soft">
        Look at these with the customer on the device: the newest photograph and an old one,
        somebody they call often, the last messages of a conversation, a note, the home screen.
      </p>
      {ticket.agreed.lookIn ? (
        <div>
          <ButtonLink to={`/archives/${backup.archiveId}?check`}>
            Draw samples to compare …
          </ButtonLink>
        </div>
      ) : (
        <p className="text-small text-soft">
          Samples out of the backup can be shown beside it once the customer agreed that the shop
          looks inside.
        </p>
      )}
    </section>
  );
}

const reportOf = (operation: Operation) =>
  operation.kind === 'cross' ? (operation.result?.report ?? null) : null;

/** Of a device of the same family, files compare as they are counted. */
function compared({ items }: ClassAmount, now: number): string {
  if (now === items) return 'the same';
  return now < items
    ? `${countOf(items - now, 'item')} fewer than in the backup`
    : `${countOf(now - items, 'item')} more: it was used since`;
}

/** Another family keeps the same things in other files: what arrived was counted as it was read back. */
function crossed(line: ClassCrossing | undefined): string {
  if (!line) return 'left out';
  const arrived = goesOver(line) + line.present;
  return [
    arrived > 0 ? `${countedOf(line.class, arrived)} there` : 'nothing there',
    ...line.stays.map(({ why, count }) => `${countOf(count, 'item')} not: ${stayReasons[why].why}`),
  ].join('; ');
}
