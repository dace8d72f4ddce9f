import { useMutation, useQuery } from '@tanstack/react-query';
import {
  fileToldSchema,
  MESSAGE_FILE_BYTES_MAX,
  messageFilePath,
  routes,
  type BenchView,
  type Berth,
  type FileTold,
  type Ticket,
} from '@bright-cellar/contract';
import { crossingReadiness, firstUnmet, type DeviceFacts, type Mapping } from '@bright-cellar/core';
import { useState } from 'react';
import { useParams } from 'react-router';
import { call, problemFrom, sendFile } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, ButtonLink } from '../design/button.js';
import { ConditionList } from '../design/condition-list.js';
import { FileDrop } from '../design/file-drop.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { FileMapping } from './file-mapping.js';
import { FilePictures } from './file-pictures.js';
import { FilePreview } from './file-preview.js';
import { StartBringBack } from './start-bring-back.js';

/** Messages or calls out of an open file, back onto the ticket's device. */
export function BringBackPage() {
  const { number = '' } = useParams();
  const ticket = useQuery(queries.ticket(number)).data;
  const bench = useQuery(queries.bench()).data;
  if (!ticket || !bench) return <Loading what="Fetching the ticket" />;
  return <OnTicket ticket={ticket} bench={bench} />;
}

function OnTicket({ ticket, bench }: { ticket: Ticket; bench: BenchView }) {
  const { number } = ticket;
  const now = bench.berths.find((b) => b.device?.serial === ticket.device.serial) ?? null;
  /** A device that is at work, or away while it takes something in, is the same still. */
  const [begun, setBegun] = useState<Berth | null>(null);
  const conditions = now?.device ? crossingReadiness(now.device) : [];
  const unmet = firstUnmet(conditions);
  const berth = begun ?? (unmet ? null : now);
  if (berth?.device) {
    return (
      <BringBack
        ticket={ticket}
        berth={berth}
        device={berth.device}
        onHeld={(isHeld) => setBegun(isHeld ? berth : null)}
      />
    );
  }
  return (
    <Page
      title={`Messages back, ticket ${number}`}
      now={unmet?.remedy ?? 'Connect the device that they go onto to a berth and open it.'}
    >
      {now?.device ? (
        <div className="max-w-md">
          <ConditionList conditions={conditions} />
        </div>
      ) : (
        <p>The device is not on the bench, so nothing can be brought back onto it.</p>
      )}
      <div>
        <ButtonLink to={`/tickets/${number}`}>Back to the ticket</ButtonLink>
      </div>
    </Page>
  );
}

const FILES = {
  'text/plain': ['.jsonl', '.txt'],
  'text/csv': ['.csv'],
  'text/xml': ['.xml'],
  'application/xml': ['.xml'],
  'text/html': ['.html', '.htm'],
  'application/json': ['.json', '.jsonl'],
};

function BringBack({
  ticket,
  berth,
  device,
  onHeld,
}: {
  ticket: Ticket;
  berth: Berth;
  device: DeviceFacts;
  /** A file for it is held, or none any more. */
  onHeld: (isHeld: boolean) => void;
}) {
  const { number } = ticket;
  const [told, setTold] = useState<FileTold | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const give = useMutation({
    mutationFn: (file: File) =>
      sendFile(messageFilePath(number, device.id), file, 'text/plain', fileToldSchema),
    onMutate: () => setRefused(null),
    onSuccess: (next) => {
      setTold(next);
      onHeld(true);
    },
  });
  const map = useMutation({
    mutationFn: (how: { mapping: Mapping; numbers: Record<string, string> }) =>
      call(routes.mapMessageFile, { params: { number, id: told?.id ?? '' }, body: how }),
    onSuccess: setTold,
  });
  const error = give.error ?? map.error;
  return (
    <Page
      title={`Messages back, ticket ${number}`}
      aside={<span className="text-large">{device.name}</span>}
      now={
        told
          ? 'See that each column is what it should be; then see what would come back.'
          : 'Choose the file: one that was taken out here, or one of a spreadsheet.'
      }
    >
      {error && <ProblemNote problem={problemFrom(error)} />}
      {told === null ? (
        <>
          <FileDrop
            label="Choose a file of messages or calls"
            hint="JSON Lines, CSV, XML or a page (HTML), at most 24 MB. Or drag it here."
            accept={FILES}
            maxBytes={MESSAGE_FILE_BYTES_MAX}
            disabled={give.isPending}
            onFiles={([file]) => file && give.mutate(file)}
            onRefused={setRefused}
          />
          {refused !== null && <Note>{refused} Choose another one.</Note>}
          {give.isPending && (
            <Loading what="Reading the file, and whose numbers the device knows" />
          )}
        </>
      ) : (
        <div className="grid grid-cols-1 items-start gap-6 xl:grid-cols-[minmax(0,1fr)_22rem]">
          <div className="flex min-w-0 flex-col gap-4">
            <FilePreview told={told} />
          </div>
          <div className="flex flex-col gap-5">
            {told.without + told.pictures > 0 && (
              <Section title="Its pictures">
                <FilePictures key={told.id} ticket={number} told={told} onTold={setTold} />
              </Section>
            )}
            <Section title="How it is read">
              <FileMapping
                key={told.id}
                told={told}
                busy={map.isPending}
                onMap={(how) => map.mutate(how)}
              />
            </Section>
            {told.messages + told.calls > 0 && (
              <Section title={`Onto berth ${berth.number}`}>
                <StartBringBack ticket={number} berth={berth} device={device} told={told} />
              </Section>
            )}
            <div>
              <Button
                onClick={() => {
                  setTold(null);
                  onHeld(false);
                }}
              >
                Choose another file
              </Button>
            </div>
          </div>
        </div>
      )}
    </Page>
  );
}
