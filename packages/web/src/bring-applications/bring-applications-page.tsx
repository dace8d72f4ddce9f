import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import {
  givenPackagePath,
  PACKAGE_BYTES_MAX,
  packageToldSchema,
  routes,
  type Berth,
  type PackageTold,
} from '@bright-cellar/contract';
import {
  crossingReadiness,
  firstUnmet,
  formatBytes,
  formatCount,
  isOver,
  judgePackage,
  type DeviceFacts,
} from '@bright-cellar/core';
import { useEffect, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom, sendFile } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { takeDropped } from '../bench/dropped-files.js';
import { useSerialTail } from '../bench/serial-tail.js';
import { ButtonLink } from '../design/button.js';
import { Choice, YesNo } from '../design/choice.js';
import { ConditionList } from '../design/condition-list.js';
import { FileDrop } from '../design/file-drop.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { OperationPanel } from '../operation/operation-panel.js';

/** Packages of single applications onto a device of the bench: what each says, what becomes of it there, and whether it goes. */
export function BringApplicationsPage() {
  const { number = '' } = useParams();
  const bench = useQuery(queries.bench()).data;
  const ticket = useQuery(queries.ticket(number)).data;
  const onto = useSearchParams()[0].get('onto');
  const [chosen, setChosen] = useState<string | null>(onto);
  /** What was begun on it. */
  const [begun, setBegun] = useState<{ id: string; berth: Berth } | null>(null);
  const state = useQuery({
    ...queries.operation(begun?.id ?? ''),
    enabled: begun !== null,
  }).data?.state;
  const isEnded = state !== undefined && isOver(state);
  if (!bench || !ticket) return <Loading what="Fetching the ticket" />;
  const candidates = bench.berths.filter((berth) => berth.device !== null);
  const berth =
    begun?.berth ??
    candidates.find(({ device }) => device?.id === chosen) ??
    candidates.find(({ device }) => device?.serial === ticket.device.serial) ??
    candidates[0];
  const conditions = berth?.device && !begun ? crossingReadiness(berth.device) : [];
  const unmet = firstUnmet(conditions);
  return (
    <Page
      title={`Applications back, ticket ${number}`}
      now={
        begun
          ? isEnded
            ? 'Open them on the device, and look with the customer whether all is there.'
            : 'Leave the device on its cable until the end.'
          : (unmet?.remedy ??
            (berth?.device
              ? 'Choose the packages that shall go onto it; read its serial off it, and start.'
              : 'Connect the device that they go onto to a free berth.'))
      }
      calm={begun !== null && !isEnded}
    >
      <div className="grid grid-cols-1 items-start gap-6 xl:grid-cols-[minmax(0,1fr)_22rem]">
        <Packages
          number={number}
          device={berth?.device ?? null}
          berth={berth ?? null}
          mayStart={unmet === null && begun === null}
          begunId={begun?.id ?? null}
          isEnded={isEnded}
          onBegun={(id, on) => setBegun({ id, berth: on })}
        />
        <Section title="Onto this device">
          {candidates.length > 1 && !begun && (
            <Choice
              label="Device"
              value={berth?.device?.id ?? ''}
              options={Object.fromEntries(
                candidates.map(({ number: at, device }) => [
                  device?.id ?? '',
                  `Berth ${at}, ${device?.familyName ?? ''} ${device?.model ?? ''}`,
                ]),
              )}
              onChange={setChosen}
            />
          )}
          {berth?.device && (
            <p>
              Berth {berth.number}, {berth.device.familyName} {berth.device.model},{' '}
              <Serial>{berth.device.serial}</Serial>
            </p>
          )}
          {conditions.length > 0 && <ConditionList conditions={conditions} />}
          <div className="pt-3">
            <ButtonLink to={`/tickets/${number}`}>Back to the ticket</ButtonLink>
          </div>
        </Section>
      </div>
    </Page>
  );
}

const keyOf = ({ rackId, name }: PackageTold): string => `${rackId} ${name}`;

function Packages({
  number,
  device,
  berth,
  mayStart,
  begunId,
  isEnded,
  onBegun,
}: {
  number: string;
  device: DeviceFacts | null;
  berth: Berth | null;
  mayStart: boolean;
  begunId: string | null;
  isEnded: boolean;
  onBegun: (id: string, berth: Berth) => void;
}) {
  const client = useQueryClient();
  const there = useQuery(queries.applicationPackages(number));
  const racks = (useQuery(queries.racks()).data ?? []).filter(
    (rack) => rack.present && rack.mounted !== null,
  );
  const [out, setOut] = useState<ReadonlySet<string>>(new Set());
  const serial = useSerialTail(device?.serial ?? null);
  const [refused, setRefused] = useState<string | null>(null);
  const rackId = racks[0]?.id ?? null;
  const give = useMutation({
    mutationFn: async (files: readonly File[]) => {
      for (const file of files) {
        await sendFile(
          givenPackagePath(number, rackId ?? ''),
          file,
          'application/zip',
          packageToldSchema,
        );
      }
    },
    onMutate: () => setRefused(null),
    onSettled: () =>
      client.invalidateQueries({ queryKey: queries.applicationPackages(number).queryKey }),
  });
  const { mutate } = give;
  useEffect(() => {
    if (rackId === null) return;
    const files = takeDropped();
    if (files.length > 0) mutate(files);
  }, [rackId, mutate]);
  const packages = there.data ?? [];
  const judged = packages.map((one) => ({
    one,
    judgement: one.about && device ? judgePackage(one.about, device) : null,
  }));
  const going = judged.filter(
    ({ one, judgement }) => judgement?.stays === null && !out.has(keyOf(one)),
  );
  const start = useMutation({
    mutationFn: () =>
      call(routes.startBringApplications, {
        params: { number },
        body: {
          ...{ deviceId: device?.id ?? '', serialTail: serial.tail },
          packages: going.map(({ one: { rackId: at, name } }) => ({ rackId: at, name })),
        },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      serial.clear();
      if (berth) onBegun(operation.id, berth);
    },
  });
  const error = there.error ?? give.error ?? start.error;
  return (
    <div className="flex min-w-0 flex-col gap-4">
      {error && <ProblemNote problem={problemFrom(error)} />}
      {begunId === null && (
        <FileDrop
          label="Choose packages"
          hint={
            racks[0]
              ? `Files that end in .application.zip; or drag them here, or onto a berth. They go onto ${racks[0].name}, to the ticket’s other files.`
              : 'No rack of this computer is here to keep them on: connect one.'
          }
          accept={{ 'application/zip': ['.zip'] }}
          many
          maxBytes={PACKAGE_BYTES_MAX}
          disabled={rackId === null || give.isPending}
          onFiles={(files) => give.mutate(files)}
          onRefused={setRefused}
        />
      )}
      {refused !== null && <Note>{refused} Choose another one.</Note>}
      {give.isPending && <Loading what="Taking the packages onto the rack" />}
      {packages.length > 0 && (
        <table aria-label="Packages" className="w-full border-collapse text-small">
          <thead>
            <tr className="text-left">
              <th className="py-1 pr-4 font-semibold">Application</th>
              <th className="pr-4 font-semibold">Version</th>
              <th className="pr-4 font-semibold">From</th>
              <th className="pr-4 text-right font-semibold">Files</th>
              <th className="pr-4 text-right font-semibold">Size</th>
              <th className="font-semibold">What becomes of it</th>
            </tr>
          </thead>
          <tbody>
            {judged.map(({ one, judgement }) => (
              <Row
                key={keyOf(one)}
                one={one}
                stays={judgement === null || judgement.stays !== null}
                says={
                  one.about === null
                    ? ['It is no whole package: fetch it again.']
                    : judgement?.stays != null
                      ? [judgement.stays]
                      : (judgement?.says ?? [])
                }
                isIn={!out.has(keyOf(one))}
                onIn={
                  begunId === null
                    ? (isIn) => {
                        const next = new Set(out);
                        if (isIn) next.delete(keyOf(one));
                        else next.add(keyOf(one));
                        setOut(next);
                      }
                    : null
                }
              />
            ))}
          </tbody>
        </table>
      )}
      {there.isSuccess && packages.length === 0 && (
        <p className="text-soft">
          None yet: choose some, or take applications out of a device on its ticket.
        </p>
      )}
      {begunId !== null && <OperationPanel id={begunId} />}
      {isEnded && (
        <div>
          <ButtonLink to={`/tickets/${number}`}>Go on with ticket {number}</ButtonLink>
        </div>
      )}
      {mayStart && berth && going.length > 0 && (
        <form
          noValidate
          aria-label="Bring them back"
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (serial.isRight) start.mutate();
          }}
        >
          {serial.field}
          <div>
            <MayButton
              permission={routes.startBringApplications.access}
              type="submit"
              look="main"
              disabled={!serial.isRight}
              busy={start.isPending}
            >
              Bring {formatCount(going.length)} onto berth {berth.number}
            </MayButton>
          </div>
        </form>
      )}
    </div>
  );
}

function Row({
  one: { name, about },
  stays,
  says,
  isIn,
  onIn,
}: {
  one: PackageTold;
  stays: boolean;
  says: readonly string[];
  isIn: boolean;
  /** Null where nothing can be chosen any more. */
  onIn: ((isIn: boolean) => void) | null;
}) {
  const title = about?.name ?? name;
  return (
    <tr className="border-t border-line align-top *:py-1.5">
      <th className="pr-4 text-left font-normal">
        {stays || onIn === null ? title : <YesNo label={title} checked={isIn} onChange={onIn} />}
      </th>
      <td className="pr-4">{about?.applicationVersion ?? 'unknown'}</td>
      <td className="pr-4 whitespace-nowrap">{about?.device.model ?? ''}</td>
      <td className="pr-4 text-right">{about ? formatCount(about.files) : ''}</td>
      <td className="pr-4 text-right whitespace-nowrap">{about ? formatBytes(about.bytes) : ''}</td>
      <td>
        {stays && <strong>Stays. </strong>}
        {!stays && !isIn && 'Left out. '}
        {says.join(' ') || (!stays && isIn && 'Goes with all of its data.')}
      </td>
    </tr>
  );
}
