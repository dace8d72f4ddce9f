import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Berth, type FileTold } from '@bright-cellar/contract';
import { dataClasses, goesOver, isOver, type DeviceFacts } from '@bright-cellar/core';
import { Fragment, useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { useSerialTail } from '../bench/serial-tail.js';
import { ButtonLink } from '../design/button.js';
import { Note, ProblemNote } from '../design/note.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { Fate, Losses } from '../restore/fate.js';

/** First what would come back is found out against the device; then, with its serial, it is written. */
export function StartBringBack({
  ticket,
  berth,
  device,
  told,
}: {
  ticket: string;
  berth: Berth;
  device: DeviceFacts;
  told: FileTold;
}) {
  const client = useQueryClient();
  const serial = useSerialTail(device.serial);
  /** What was found out of how the file is read now. */
  const [begun, setBegun] = useState<{ id: string; of: FileTold } | null>(null);
  const start = useMutation({
    mutationFn: (serialTail: string | null) =>
      call(routes.startBringBack, {
        params: { number: ticket },
        body: { deviceId: device.id, file: told.id, serialTail },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      setBegun({ id: operation.id, of: told });
      serial.clear();
    },
  });
  const isOfThis = begun?.of === told;
  const operation = useQuery({
    ...queries.operation(begun?.id ?? ''),
    enabled: begun !== null,
  }).data;
  const result =
    isOfThis && operation?.kind === 'bringBack' && operation.state === 'done'
      ? operation.result
      : null;
  const report = result?.report ?? null;
  const isNothing = report?.every((line) => goesOver(line) === 0) ?? false;
  const isRunning = operation !== undefined && !isOver(operation.state);
  return (
    <div className="flex flex-col gap-3">
      {begun && (isRunning || operation?.problem != null || result?.wrote === true) && (
        <OperationPanel id={begun.id} />
      )}
      {report && (
        <table aria-label="What comes back" className="w-full border-collapse text-small">
          <tbody>
            {report.map((line) => (
              <Fragment key={line.class}>
                <tr className="border-t border-line">
                  <th className="py-1 pr-3 text-left font-normal">{dataClasses[line.class]}</th>
                  <td className="w-full">
                    <Fate line={line} />
                  </td>
                </tr>
                <Losses line={line} columns={2} />
              </Fragment>
            ))}
          </tbody>
        </table>
      )}
      {result && !result.wrote && isNothing && (
        <Note>All of it is on the device already: there is nothing to bring back.</Note>
      )}
      {start.error && <ProblemNote problem={problemFrom(start.error)} />}
      {!isRunning && report === null && (
        <div>
          <MayButton
            permission={routes.startBringBack.access}
            look="main"
            busy={start.isPending}
            onClick={() => start.mutate(null)}
          >
            See what would come back
          </MayButton>
        </div>
      )}
      {result && !result.wrote && !isNothing && (
        <form
          noValidate
          aria-label="Bring it back"
          className="flex flex-col gap-3 border-t border-line pt-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (serial.isRight) start.mutate(serial.tail);
          }}
        >
          {serial.field}
          <div>
            <MayButton
              permission={routes.startBringBack.access}
              type="submit"
              look="main"
              disabled={!serial.isRight}
              busy={start.isPending}
            >
              Bring it back onto berth {berth.number}
            </MayButton>
          </div>
        </form>
      )}
      {result?.wrote && (
        <div>
          <ButtonLink to={`/tickets/${ticket}`}>Go on with ticket {ticket}</ButtonLink>
        </div>
      )}
    </div>
  );
}
