import { useMutation, useQuery } from '@tanstack/react-query';
import { routes, type BenchView, type PartnerTold, type Ticket } from '@bright-cellar/contract';
import type { DeviceFacts, LinkDeviceId } from '@bright-cellar/core';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

/** Other devices of the same customer on the bench, and backups of theirs that are looked into. */
export function OpenNearby({
  ticket,
  device,
  bench,
  onOpened,
}: {
  ticket: Ticket;
  device: DeviceFacts;
  bench: BenchView;
  onOpened: (told: PartnerTold) => void;
}) {
  const params = { number: ticket.number, deviceId: device.id };
  const ofDevice = useMutation({
    mutationFn: (other: LinkDeviceId) =>
      call(routes.openPartnerDevice, { params, body: { other } }),
    onSuccess: onOpened,
  });
  const ofBackup = useMutation({
    mutationFn: (lookIn: string) => call(routes.openPartnerBackup, { params, body: { lookIn } }),
    onSuccess: onOpened,
  });
  const others = bench.berths.flatMap(({ number, device: one, ticketNumber, customerName }) =>
    one && one.id !== device.id && ticketNumber && customerName === ticket.customer.name
      ? [{ berth: number, id: one.id, name: one.name }]
      : [],
  );
  const lookIns = (useQuery(queries.lookIns()).data ?? []).filter(({ isOwn }) => isOwn);
  const isPending = ofDevice.isPending || ofBackup.isPending;
  const error = ofDevice.error ?? ofBackup.error;
  // A backup is only read: what takes nothing cannot be brought into step with one.
  const mayTake = device.capabilities.takes?.changes === true;
  return (
    <>
      <Section title="On another device of theirs">
        {others.length === 0 && (
          <p className="text-soft">
            None is on the bench. It needs an open ticket of the same customer.
          </p>
        )}
        <div className="flex flex-wrap gap-2">
          {others.map(({ berth, id, name }) => (
            <MayButton
              key={id}
              permission="restore"
              busy={isPending}
              onClick={() => ofDevice.mutate(id)}
            >
              {name}, berth {berth}
            </MayButton>
          ))}
        </div>
      </Section>
      {mayTake && (
        <Section title="In a backup of theirs">
          {lookIns.length === 0 && (
            <p className="text-soft">Look into one first: what is open to you is offered here.</p>
          )}
          <div className="flex flex-wrap gap-2">
            {lookIns.map(({ id, deviceName, ticketNumber }) => (
              <MayButton
                key={id}
                permission="restore"
                busy={isPending}
                onClick={() => ofBackup.mutate(id)}
              >
                {deviceName}, ticket {ticketNumber}
              </MayButton>
            ))}
          </div>
        </Section>
      )}
      {error && <ProblemNote problem={problemFrom(error)} />}
    </>
  );
}
