import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Operation } from '@bright-cellar/contract';
import {
  definitionOf,
  formatBytes,
  formatCount,
  formatRate,
  isOver,
  isPausable,
  isStoppable,
  phaseName,
  type OperationKind,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { operationShare, timeLeft } from '../bench/berth-now.js';
import { Button } from '../design/button.js';
import { Bar, Figure } from '../design/figures.js';
import { Note, ProblemNote } from '../design/note.js';
import { ContinueForm } from './continue-form.js';
import type { Done, EndedPanel } from './ended.js';
import { endedPanels } from './kinds.js';

/** One operation as it is now, on any screen: running with its figures, or how it ended. */
export function OperationPanel({ id }: { id: string }) {
  const operation = useQuery(queries.operation(id)).data;
  if (!operation) return null;
  if (!isOver(operation.state)) return <Running operation={operation} />;
  if (operation.problem) {
    return (
      <div className="flex flex-col gap-4">
        <ProblemNote problem={operation.problem} />
        {operation.keptBytes != null && <ContinueForm operation={operation} />}
      </div>
    );
  }
  return <Ended operation={operation} />;
}

function Running({ operation }: { operation: Operation }) {
  const client = useQueryClient();
  const stop = useMutation({
    mutationFn: () => call(routes.stopOperation, { params: { id: operation.id } }),
    onSuccess: (stopped) => placeOperation(client, stopped),
  });
  const pause = useMutation({
    mutationFn: (paused: boolean) =>
      call(routes.pauseOperation, { params: { id: operation.id }, body: { paused } }),
    onSuccess: (changed) => placeOperation(client, changed),
  });
  const device = useQuery(queries.bench()).data?.berths.find(
    (b) => b.device !== null && b.device.id === operation.deviceId,
  )?.device;
  const share = operationShare(operation);
  const counted = operation.totalBytes > 0;
  const { kind, phase } = operation;
  const isPaused = operation.state === 'paused';
  const others = useQuery(queries.operations()).data;
  const isGivingWay =
    definitionOf(kind).givesWay &&
    operation.rate === 0 &&
    others?.some((other) => other.deviceId !== null && other.state === 'running');
  const isStopping = operation.state === 'stopping';
  return (
    <div className="flex flex-col gap-3">
      <Phases operation={operation} />
      {counted && (
        <>
          <div className="flex flex-wrap items-end gap-x-7 gap-y-2">
            <p className="text-figure font-bold">{Math.floor(share * 100)} %</p>
            <Figure
              value={formatBytes(operation.doneBytes)}
              of={`of ${formatBytes(operation.totalBytes)}`}
            >
              Amount
            </Figure>
            {operation.totalItems > 0 && (
              <Figure
                value={formatCount(operation.doneItems)}
                of={`of ${formatCount(operation.totalItems)}`}
              >
                Items
              </Figure>
            )}
            <Figure value={operation.rate > 0 ? formatRate(operation.rate) : '–'} of="now">
              Rate
            </Figure>
            <Figure
              value={isPaused ? 'paused' : (timeLeft(operation) ?? 'measuring')}
              of="as it goes now"
            >
              Time left
            </Figure>
          </div>
          <Bar share={share} label={phaseName(operation.kind, operation.phase)} />
        </>
      )}
      {operation.needs && (
        <p className="border-l-8 border-lamp bg-lamplight px-4 py-2 font-semibold">
          {operation.needs}
        </p>
      )}
      {device && (
        <p className="text-small text-soft">
          On its own screen: <span className="text-ink">{device.screen}</span>
        </p>
      )}
      {isPaused && (
        <Note>
          Paused.{' '}
          {operation.deviceId !== null &&
            'Leave the device on its cable: what was taken is on the rack. '}
          After half an hour it stops by itself, and can still go on later.
        </Note>
      )}
      {isGivingWay && (
        <Note>It stands still while a device is read or written, and goes on by itself.</Note>
      )}
      {operation.phase === 'installing' && !operation.needs && (
        <Note>
          The device restarts, leaves the bench and comes back by itself. Do not unplug it.
        </Note>
      )}
      {isStoppable(kind, phase) && (
        <div className="flex gap-2">
          {isPausable(kind, phase) && !isStopping && (
            <Button
              look={isPaused ? 'main' : 'plain'}
              busy={pause.isPending}
              onClick={() => pause.mutate(!isPaused)}
            >
              {isPaused ? 'Go on' : 'Pause'}
            </Button>
          )}
          <Button busy={stop.isPending} disabled={isStopping} onClick={() => stop.mutate()}>
            {isStopping ? 'Stopping …' : 'Stop'}
          </Button>
        </div>
      )}
      {(stop.error ?? pause.error) && (
        <ProblemNote problem={problemFrom(stop.error ?? pause.error)} />
      )}
    </div>
  );
}

/** Where the work is among its phases. */
function Phases({ operation }: { operation: Operation }) {
  const phases = Object.entries(definitionOf(operation.kind).phases);
  const at = phases.findIndex(([id]) => id === operation.phase);
  return (
    <ol aria-label="Phases" className="flex flex-wrap gap-x-5 gap-y-1">
      {phases.map(([id, name], i) => (
        <li
          key={id}
          aria-current={i === at ? 'step' : undefined}
          className={clsx(
            i === at
              ? 'border-b-4 border-ink font-bold'
              : 'border-b-4 border-transparent text-soft',
          )}
        >
          {i + 1} {name}
          {i < at && ' ✓'}
        </li>
      ))}
    </ol>
  );
}

function Ended({ operation }: { operation: Operation }) {
  const Panel = endedPanels[operation.kind] as EndedPanel<OperationKind>;
  return operation.result && <Panel operation={operation as Done<OperationKind>} />;
}
