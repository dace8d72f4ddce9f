import { useQuery } from '@tanstack/react-query';
import { routes, type RecoveredFolder, type Ticket } from '@bright-cellar/contract';
import { countOf, formatBytes } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Choice } from '../design/choice.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { useStart } from '../operation/use-start.js';
import { useArchivePassword } from '../password/archive-password.js';
import { PasswordChoice } from '../password/password-choice.js';
import { RackElevations } from './rack-elevations.js';

const keyOf = ({ rackId, name }: RecoveredFolder) => `${rackId}/${name}`;

/** What somebody recovered from the device, taken over from the folder that it came in. */
export function RecoveredForm({ ticket }: { ticket: Ticket }) {
  const folders = useQuery(queries.recoveredFolders());
  if (folders.isPending) return <Loading what="Looking on the racks" />;
  if (folders.error) return <ProblemNote problem={problemFrom(folders.error)} />;
  const [first, ...more] = folders.data;
  if (!first) {
    return (
      <p className="border border-line bg-ground px-4 py-3 text-soft">
        No folder waits on any rack. Copy what was recovered into the folder{' '}
        <span className="font-mono">incoming</span> of a rack, under any name; or connect the device
        itself.
      </p>
    );
  }
  return <TakeOver ticket={ticket} folders={[first, ...more]} />;
}

function TakeOver({
  ticket,
  folders,
}: {
  ticket: Ticket;
  folders: [RecoveredFolder, ...RecoveredFolder[]];
}) {
  const { number } = ticket;
  const racks = useQuery(queries.racks()).data ?? [];
  const [folderKey, setFolderKey] = useState('');
  const [rackId, setRackId] = useState<string | null>(null);
  const password = useArchivePassword(number);
  const from = folders.find((folder) => keyOf(folder) === folderKey) ?? folders[0];
  const size = useQuery(queries.recoveredSize({ rackId: from.rackId, name: from.name }));
  const bytes = size.data?.bytes ?? 0;
  const fitting = racks.filter((rack) => rack.present && rack.free - bytes > rack.reserve);
  // What came on a dying drive should not stay on it.
  const proposed = fitting.find((rack) => rack.id !== from.rackId) ?? fitting[0];
  const chosen = (fitting.find((rack) => rack.id === rackId) ?? proposed)?.id ?? null;
  const body = {
    ...password.body,
    from: { rackId: from.rackId, name: from.name },
    rackId: chosen ?? '',
  };
  const start = useStart(
    number,
    () => call(routes.takeOverRecovered, { params: { number }, body }),
    password.clear,
  );
  return (
    <form
      noValidate
      aria-label="Take it over"
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (password.ready && chosen) start.mutate();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <div className="min-w-72">
          <Choice<string>
            label="The folder that was recovered"
            value={keyOf(from)}
            options={Object.fromEntries(
              folders.map((folder) => [keyOf(folder), `${folder.name}, on ${folder.rackName}`]),
            )}
            onChange={setFolderKey}
          />
        </div>
        <p className="pb-2 text-large font-bold tabular-nums" aria-live="polite">
          {size.data
            ? `${countOf(size.data.items, 'item')}, ${formatBytes(size.data.bytes)}`
            : 'Measuring …'}
        </p>
      </div>
      {size.error && <ProblemNote problem={problemFrom(size.error)} />}
      <div className="grid grid-cols-1 items-start gap-6 lg:grid-cols-[auto_minmax(0,1fr)]">
        <RackElevations
          racks={racks}
          fitting={fitting}
          adds={bytes}
          after={(rack) =>
            size.data ? `at least ${formatBytes(Math.max(0, rack.free - bytes * 1.02))}` : null
          }
          chosen={chosen}
          onChoose={setRackId}
        />
        <div className="flex flex-col gap-2">
          <PasswordChoice
            ticket={number}
            device={`${ticket.device.familyName} ${ticket.device.model}`}
            value={password.value}
            set={password.set}
          />
        </div>
      </div>
      {start.error && <ProblemNote problem={problemFrom(start.error)} />}
      <div className="flex items-center gap-4">
        <MayButton
          permission={routes.takeOverRecovered.access}
          type="submit"
          look="main"
          disabled={!password.ready || !chosen || !size.data}
          busy={start.isPending}
        >
          Take it over
        </MayButton>
        <p className="text-small text-soft">
          The folder is only read and stays where it is. A lost password cannot be recovered by
          anybody.
        </p>
      </div>
    </form>
  );
}
