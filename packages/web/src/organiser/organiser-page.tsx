import { useMutation, useQuery } from '@tanstack/react-query';
import { routes, type BenchView, type PartnerTold, type Ticket } from '@bright-cellar/contract';
import type { DeviceFacts } from '@bright-cellar/core';
import { useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, ButtonLink } from '../design/button.js';
import { Loading } from '../design/loading.js';
import { Page, Section } from '../design/page.js';
import { InStep } from './in-step.js';
import { OpenFiles } from './open-files.js';
import { OpenNearby } from './open-nearby.js';
import { OpenServer } from './open-server.js';
import { otherSides } from './other-side.js';

/** A device's contacts and calendar, kept in step with the customer's own. */
export function OrganiserPage() {
  const { number = '' } = useParams();
  const ticket = useQuery(queries.ticket(number)).data;
  const bench = useQuery(queries.bench()).data;
  if (!ticket || !bench) return <Loading what="Fetching the ticket" />;
  return <OnTicket ticket={ticket} bench={bench} />;
}

function OnTicket({ ticket, bench }: { ticket: Ticket; bench: BenchView }) {
  const { number } = ticket;
  const [partner, setPartner] = useState<PartnerTold | null>(null);
  /** A device that is away for a moment is the same still. */
  const [last, setLast] = useState<DeviceFacts | null>(null);
  const here = bench.berths.find((b) => b.device?.serial === ticket.device.serial)?.device ?? null;
  const device = here ?? last;
  const forget = useMutation({
    mutationFn: (id: string) => call(routes.closePartner, { params: { id } }),
  });
  const title = `In step with the customer’s own, ticket ${number}`;
  if (!device) {
    return (
      <Page title={title} now="Connect the device to a berth and open it.">
        <p>The device is not on the bench, so nothing can be read from it.</p>
        <div>
          <ButtonLink to={`/tickets/${number}`}>Back to the ticket</ButtonLink>
        </div>
      </Page>
    );
  }
  const aside = <span className="text-large">{device.name}</span>;
  if (!partner) {
    const onOpened = (told: PartnerTold) => {
      setPartner(told);
      setLast(device);
    };
    return (
      <Page title={title} aside={aside} now="Choose whom the device is brought into step with.">
        <div className="grid grid-cols-1 items-start gap-8 xl:grid-cols-2">
          <Section title="On a server of theirs">
            <OpenServer ticket={number} deviceId={device.id} onOpened={onOpened} />
          </Section>
          <div className="flex flex-col gap-8">
            <Section title="In files they brought">
              <OpenFiles ticket={number} deviceId={device.id} onOpened={onOpened} />
            </Section>
            <OpenNearby ticket={ticket} device={device} bench={bench} onOpened={onOpened} />
          </div>
        </div>
      </Page>
    );
  }
  return (
    <InStep
      key={partner.id}
      title={title}
      aside={aside}
      ticket={number}
      device={device}
      partner={partner}
      leave={
        <Button
          onClick={() => {
            forget.mutate(partner.id);
            setPartner(null);
            setLast(null);
          }}
        >
          {otherSides[partner.kind].close}
        </Button>
      }
    />
  );
}
