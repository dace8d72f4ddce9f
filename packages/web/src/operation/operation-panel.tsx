import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Operation } from '@bright-cellar/contract';
import {
  countOf,
  formatBytes,
  formatBytesRange,
  formatCount,
  formatDuration,
  formatDurationRange,
  formatRate,
  operationPhases,
  phaseName,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { operationShare, timeLeft } from '../bench/berth-now.js';
import { Button } from '../design/button.js';
import { Bar, Facts, Figure } from '../design/figures.js';
import { Note, ProblemNote } from '../design/note.js';
import { Digest } from '../design/serial.js';
import { ContinueForm } from './continue-form.js';
import { FailedItems } from './failed-items.js';
import { RetryFailed } from './retry-failed.js';

/** One operation as it is now, on any screen: running with its figures, or how it ended. */
export function OperationPanel({ id }: { id: string }) {
  const operation = useQuery(queries.operation(id)).data;
  if (!operation) return null;
  if (operation.state === 'running') return <Running operation={operation} />;
  if (operation.problem) {
    return (
      <div className="flex flex-col gap-4">
        <ProblemNote problem={operation.problem} />
        {operation.keptBytes !== null && <ContinueForm operation={operation} />}
      </div>
    );
  }
  return operation.result ? <Ended operation={operation} /> : null;
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
  const stoppable = operation.kind !== 'erase' && operation.phase !== 'installing';
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
              value={operation.paused ? 'paused' : (timeLeft(operation) ?? 'measuring')}
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
      {operation.paused && (
        <Note>
          Paused. Leave the device on its cable: what was taken is on the rack. After half an hour
          it stops by itself, and can still go on later.
        </Note>
      )}
      {operation.phase === 'installing' && !operation.needs && (
        <Note>
          The device restarts, leaves the bench and comes back by itself. Do not unplug it.
        </Note>
      )}
      {stoppable && (
        <div className="flex gap-2">
          {operation.kind === 'backup' && operation.phase === 'taking' && (
            <Button
              look={operation.paused ? 'main' : 'plain'}
              busy={pause.isPending}
              onClick={() => pause.mutate(!operation.paused)}
            >
              {operation.paused ? 'Go on' : 'Pause'}
            </Button>
          )}
          <Button busy={stop.isPending} disabled={operation.stopping} onClick={() => stop.mutate()}>
            {operation.stopping ? 'Stopping …' : 'Stop'}
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
  const phases = Object.entries(operationPhases[operation.kind]);
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

const storedWords: Partial<Record<Operation['kind'], string>> = {
  prove: 'Stored on the rack',
  export: 'Size of the package',
  backup: 'Stored for it',
  import: 'Stored for it',
};

function Ended({ operation }: { operation: Operation }) {
  const { result } = operation;
  if (!result) return null;
  const failedCount = result.failed.reduce((sum, f) => sum + f.count, 0);
  if (operation.kind === 'erase')
    return <Note tone="proven">The device erased itself and is empty.</Note>;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap gap-x-8 gap-y-2">
        {operation.kind === 'backup' && (
          <Figure value={formatCount(result.items)}>Items taken</Figure>
        )}
        {operation.kind === 'backup' && <Figure value={formatCount(failedCount)}>Failed</Figure>}
        {operation.kind === 'prove' && (
          <Figure value={formatCount(result.items)}>Items in it</Figure>
        )}
        {(operation.kind === 'export' || operation.kind === 'import') && (
          <Figure value={formatCount(result.items)}>
            {operation.kind === 'export' ? 'Items written' : 'Items taken in'}
          </Figure>
        )}
        {operation.kind === 'extract' && (
          <>
            <Figure value={formatCount(result.items)}>Taken</Figure>
            <Figure value={formatCount(result.newItems ?? 0)}>New in the file</Figure>
            <Figure value={formatCount(failedCount)}>Failed</Figure>
          </>
        )}
        {result.compared && (
          <>
            <Figure value={formatCount(result.compared.same)}>Same as the backup</Figure>
            <Figure value={formatCount(result.compared.different)}>Different</Figure>
            <Figure value={formatCount(result.compared.missing)}>Missing</Figure>
            <Figure value={formatCount(result.compared.extra)}>Not from the backup</Figure>
          </>
        )}
        <Figure value={formatBytes(result.bytes)}>
          {operation.kind === 'restore'
            ? 'Restored'
            : operation.kind === 'extract'
              ? 'Size'
              : 'Size on device'}
        </Figure>
        {result.newBytes !== null && (
          <Figure
            value={formatBytes(result.newBytes)}
            {...(result.newBytes > 0 ? { of: `in ${countOf(result.newItems ?? 0, 'item')}` } : {})}
          >
            New in the archive
          </Figure>
        )}
        {result.storedBytes !== null && (
          <Figure value={formatBytes(result.storedBytes)}>
            {storedWords[operation.kind] ?? 'Size on rack'}
          </Figure>
        )}
        <Figure value={formatDuration(result.durationMs)}>Duration</Figure>
      </div>
      {result.failed.length > 0 && (
        <FailedItems operationId={operation.id} failed={result.failed} />
      )}
      {operation.retryable > 0 && <RetryFailed operation={operation} />}
      {operation.estimate && operation.kind === 'backup' && (
        <p className="text-small text-soft">
          Expected were{' '}
          {formatBytesRange(operation.estimate.stored.low, operation.estimate.stored.high)} on the
          rack in {formatDurationRange(operation.estimate.ms.low, operation.estimate.ms.high)}.
        </p>
      )}
      {operation.kind === 'extract' && result.wrote && (
        <p>
          Written as <Digest>{result.wrote}</Digest> into the rack’s folder of extracts.
        </p>
      )}
      {operation.kind !== 'extract' && result.wrote && (
        <p>
          Written as <Digest>{result.wrote}</Digest> into the rack’s packages folder. It opens with{' '}
          <code className="font-mono">age -d FILE | tar x</code> and the archive’s password.
        </p>
      )}
      {result.digest && <Facts facts={[['Digest', <Digest key="d">{result.digest}</Digest>]]} />}
    </div>
  );
}
