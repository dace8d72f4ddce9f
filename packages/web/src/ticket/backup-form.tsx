import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Rack, type Ticket } from '@bright-cellar/contract';
import { dataClasses, formatBytes, formatCount, totalOf } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';
import { NewPasswordFields, useNewPassword } from '../password/new-password.js';
import { KnownArchiveForm } from './known-archive-form.js';
import { RackElevations } from './rack-elevations.js';

/** The next backup of a device: into its archive where that is there, else into a new one. */
export function BackupForm({ ticket }: { ticket: Ticket }) {
  const bench = useQuery(queries.bench()).data;
  const [isNew, setNew] = useState(false);
  const device = bench?.berths.find((b) => b.device?.serial === ticket.device.serial)?.device;
  if (ticket.knownArchive && device && !isNew) {
    return (
      <KnownArchiveForm
        ticket={ticket}
        archive={ticket.knownArchive}
        deviceId={device.id}
        onNew={() => setNew(true)}
      />
    );
  }
  return <NewArchiveForm ticket={ticket} />;
}

/** What is taken and how large it is, where it goes, and under which password: then it starts. */
function NewArchiveForm({ ticket }: { ticket: Ticket }) {
  const client = useQueryClient();
  const bench = useQuery(queries.bench()).data;
  const racks = useQuery(queries.racks()).data ?? [];
  const content =
    bench?.berths.find((b) => b.device?.serial === ticket.device.serial)?.device?.content ?? [];
  const size = totalOf(content);
  const [rackId, setRackId] = useState<string | null>(null);
  const { value, set, ready, clear } = useNewPassword();
  const rack = racks.find((r) => r.id === rackId) ?? proposedRack(racks, size.bytes);
  const start = useMutation({
    mutationFn: () =>
      call(routes.startBackup, {
        params: { number: ticket.number },
        body: {
          rackId: rack?.id ?? null,
          archiveId: null,
          password: value.password,
          passwordHolder: value.holder,
          reminder: value.reminder,
        },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      clear();
      return client.invalidateQueries({ queryKey: queries.ticket(ticket.number).queryKey });
    },
  });
  return (
    <form
      noValidate
      aria-label="Take the backup"
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (ready && rack) start.mutate();
      }}
    >
      <div>
        <h3>
          Everything: {formatBytes(size.bytes)} in {formatCount(size.items)} items
        </h3>
        <dl aria-label="What is taken" className="gap-8 text-small md:columns-2">
          {content.map((amount) => (
            <div key={amount.class} className="flex border-b border-line py-px">
              <dt className="flex-1">{dataClasses[amount.class]}</dt>
              <dd className="w-14 text-right">{formatCount(amount.items)}</dd>
              <dd className="w-20 text-right">{formatBytes(amount.bytes)}</dd>
            </div>
          ))}
        </dl>
      </div>
      <div className="grid grid-cols-1 items-start lg:grid-cols-[auto_minmax(0,1fr)] gap-6">
        <RackElevations
          racks={racks}
          chosen={rack?.id ?? null}
          adds={size.bytes}
          onChoose={setRackId}
        />
        <div className="grid grid-cols-2 gap-x-4 gap-y-1">
          <NewPasswordFields label="Password of the backup" value={value} set={set} />
        </div>
      </div>
      {start.error && <ProblemNote problem={problemFrom(start.error)} />}
      <div className="flex items-center gap-4">
        <Button type="submit" look="main" disabled={!ready || !rack} busy={start.isPending}>
          Take the full backup
        </Button>
        <p className="text-small text-soft">
          A lost password cannot be recovered by anybody. It is proved by opening the backup with
          it.
        </p>
      </div>
    </form>
  );
}

/**
 * The first rack with about the most room above its reserve. “About”, so that two that are alike do not
 * take turns while somebody is typing.
 */
function proposedRack(racks: readonly Rack[], bytes: number): Rack | undefined {
  const fitting = racks.filter((r) => r.present && r.free - bytes > r.reserve);
  const most = Math.max(0, ...fitting.map((r) => r.free));
  return fitting.find((r) => r.free >= most * 0.9);
}
