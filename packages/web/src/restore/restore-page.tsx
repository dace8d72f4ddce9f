import { useQuery } from '@tanstack/react-query';
import type { Archive, Backup, Berth, Operation } from '@bright-cellar/contract';
import {
  anyDay,
  classKey,
  firstUnmet,
  formatBytes,
  formatCount,
  goesOver,
  isOver,
  nothingLeftOut,
  osVersionRead,
  savedBy,
  type ChosenPart,
  type Condition,
  type CrossingReport,
  type DataClass,
  type LeaveOut,
  type Sparable,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { OsUpdate } from '../bench/os-update.js';
import { ButtonLink } from '../design/button.js';
import { YesNo } from '../design/choice.js';
import { ConditionList } from '../design/condition-list.js';
import { Facts } from '../design/figures.js';
import { Loading } from '../design/loading.js';
import { ProofMark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { CrossingChoice } from './crossing-choice.js';
import { Crossing } from './crossing.js';
import { Examples } from './examples.js';
import { FitLedger } from './fit-ledger.js';
import { PrepareTarget } from './prepare-target.js';
import { HandChoice } from './hand-choice.js';
import { StartCrossing, type Foreseen, type Part } from './start-crossing.js';
import { StartRestore } from './start-restore.js';
import { WhichBackup } from './which-backup.js';

/** What is told of on this page. */
const ways = new Set<Operation['kind']>(['restore', 'foresee', 'cross']);

/** From one backup onto one device: who gives, who takes, what crosses, and whether it may. */
export function RestorePage() {
  const { archiveId = '', backupId = '' } = useParams();
  const archive = useQuery(queries.archive(archiveId));
  const bench = useQuery(queries.bench()).data;
  const running = useQuery(queries.operations()).data?.find(
    (o) => ways.has(o.kind) && o.backupId === backupId,
  );
  const [startedId, setStartedId] = useState<string | null>(null);
  const onto = useSearchParams()[0].get('onto');
  const [chosen, setChosen] = useState<string | null>(onto);
  const operationId = running?.id ?? startedId;
  const operation = useQuery({
    ...queries.operation(operationId ?? ''),
    enabled: operationId !== null,
  }).data;

  if (archive.isPending || !bench) return <Loading what="Fetching the backup" />;
  const backup = archive.data?.backups.find((b) => b.id === backupId);
  if (!archive.data || !backup) {
    return (
      <Page title="Restore" now="Choose a backup from the archives." calm>
        <ButtonLink to="/archives">Go to the archives</ButtonLink>
      </Page>
    );
  }
  const candidates = bench.berths.filter((b) => b.device !== null);
  const active = operation && (!isOver(operation.state) || operation.id === startedId);
  const deviceId =
    (active ? operation.deviceId : null) ??
    chosen ??
    candidates.find((b) => b.device?.empty)?.device?.id ??
    null;
  const target = bench.berths.find((b) => b.device?.id === deviceId) ?? null;
  return (
    <RestoreView
      archive={archive.data}
      backup={backup}
      candidates={candidates}
      target={target}
      away={bench.away[0]?.name ?? null}
      deviceId={deviceId}
      operation={active ? operation : null}
      onChoose={(id) => {
        setChosen(id);
        setStartedId(null);
      }}
      onStarted={setStartedId}
      key={backup.id}
    />
  );
}

function RestoreView({
  archive,
  backup,
  candidates,
  target,
  away,
  deviceId,
  operation,
  onChoose,
  onStarted,
}: {
  archive: Archive;
  backup: Backup;
  candidates: readonly Berth[];
  target: Berth | null;
  /** The name of a device that left and comes back by itself. */
  away: string | null;
  deviceId: string | null;
  operation: Operation | null;
  onChoose: (deviceId: string) => void;
  /** Null: what was foreseen holds no more. */
  onStarted: (operationId: string | null) => void;
}) {
  const foreseeing = operation?.kind === 'foresee';
  const isUnderWay = operation !== null && !(foreseeing && operation.state === 'done');
  const readiness = useQuery({
    ...queries.restoreTarget(backup.id, deviceId ?? ''),
    enabled: deviceId !== null && target !== null && !isUnderWay,
  });
  const all = backup.classes.map((amount) => amount.class);
  const [isPart, setPart] = useState(false);
  const [own, setOwn] = useState<Omit<Part, 'lookIn'> | null>(null);
  const lookIn = useSearchParams()[0].get('hand');
  const wanted = own ?? partFrom(readiness.data?.lastPart ?? null, all);
  const part: Part = { ...wanted, lookIn };
  const choose = (change: Partial<typeof wanted>) => {
    setOwn({ ...wanted, ...change });
    // What was foreseen was of another choice.
    onStarted(null);
  };
  const { crosses, mayBeWhole } = crossingOf(readiness.data, isPart || lookIn !== null, operation);
  const conditions = (crosses ? readiness.data?.crossing : readiness.data?.conditions) ?? [];
  const report = operation?.state === 'done' ? reportOf(operation) : null;
  const foreseen =
    foreseeing && operation.result && operation.deviceId === deviceId
      ? { id: operation.id, ...operation.result }
      : null;
  const [sparable, setSparable] = useState<Sparable | null>(null);
  const known = foreseen?.sparable ?? sparable;
  // While it is sent, what will arrive stands there still.
  const [lastForeseen, setLastForeseen] = useState<CrossingReport | null>(null);
  const mustBeEmptied = conditions.some(({ id, met }) => id === 'empty' && !met);
  const mayStart =
    !isUnderWay &&
    target?.device != null &&
    conditions.length > 0 &&
    conditions.every((condition) => condition.met);
  const now = whatNow(
    target,
    away,
    operation,
    firstUnmet(conditions)?.remedy ?? null,
    readiness.isSuccess,
    crosses ? (lookIn === null ? 'chosen' : 'in-hand') : null,
  );
  return (
    <Page
      title={`Restore ${archive.device.name}`}
      aside={<span className="text-large">{archive.customerName}</span>}
      now={now.sentence}
      calm={!now.needs}
    >
      {!isUnderWay && target?.device && mustBeEmptied && (
        <PrepareTarget key={target.device.id} berth={target} device={target.device} />
      )}
      <div className="grid grid-cols-1 xl:grid-cols-[15.5rem_minmax(0,1fr)_22rem] border border-line bg-surface">
        <Side title="From this backup">
          <Facts
            facts={[
              ['Taken', dateTime(backup.takenAt)],
              ['Device', `${archive.device.familyName} ${archive.device.model}`],
              ['Serial', <Serial key="s">{archive.device.serial}</Serial>],
              ['Ticket', <Serial key="t">{archive.ticketNumber}</Serial>],
              ['OS', osVersionRead(backup.osVersion)],
              ['Items', formatCount(backup.items)],
              ['Size', formatBytes(backup.bytes)],
              ['On', archive.rackName],
            ]}
          />
          <div className="pt-2">
            <ProofMark provenAt={archive.provenAt} damaged={archive.damaged} />
          </div>
          {!operation && <WhichBackup backupId={backup.id} />}
        </Side>
        <div className="border-y border-line px-5 py-4 xl:border-x xl:border-y-0">
          {lookIn !== null ? (
            <HandChoice
              lookIn={lookIn}
              report={report ?? (isUnderWay ? lastForeseen : null)}
              over={operation?.kind === 'cross' && operation.state === 'done'}
            />
          ) : crosses ? (
            <CrossingChoice
              days={part.days}
              onDays={(days) => choose({ days })}
              without={part.without}
              sparable={known}
              onWithout={(without) => {
                setSparable(known);
                choose({ without });
              }}
              backup={backup}
              chosen={part.classes}
              report={report ?? (isUnderWay ? lastForeseen : null)}
              over={operation?.kind === 'cross' && operation.state === 'done'}
              onChoose={isUnderWay ? null : (classes) => choose({ classes })}
            />
          ) : (
            <Crossing backup={backup} operation={operation} />
          )}
          {foreseen?.report.some(({ changed }) => changed > 0) && <Examples id={foreseen.id} />}
          {target?.device && !isUnderWay && lookIn === null && (
            <FitLedger
              amounts={
                crosses && foreseen
                  ? amountsOf(foreseen, part.without)
                  : backup.classes.filter((amount) => !crosses || part.classes.has(amount.class))
              }
              without={crosses ? part.without : nothingLeftOut}
              sparable={known}
              device={target.device}
              onLeaveOut={({ classes: out, without }) => {
                setPart(true);
                setSparable(known);
                const classes = crosses ? part.classes : new Set(all);
                choose({
                  classes: new Set([...classes].filter((id) => !out.includes(id))),
                  without: merged(part.without, without),
                });
              }}
            />
          )}
        </div>
        <Side title="Onto this device">
          {candidates.length === 0 && !operation && (
            <p className="text-soft">No device is on the bench. Connect the empty one.</p>
          )}
          {!isUnderWay && candidates.length > 0 && (
            <Candidates candidates={candidates} chosen={deviceId} onChoose={onChoose} />
          )}
          {!isUnderWay && mayBeWhole && lookIn === null && (
            <div className="pt-3">
              <YesNo
                label="Only a chosen part"
                checked={isPart}
                onChange={(on) => {
                  setPart(on);
                  onStarted(null);
                }}
              />
            </div>
          )}
          {isUnderWay && (
            <p>
              <span className="font-semibold">{operation.deviceName}</span>
              {!target && <span className="text-soft"> (away, comes back by itself)</span>}
            </p>
          )}
          {!isUnderWay && conditions.length > 0 && <ConditionList conditions={conditions} />}
          {!operation && target?.device && (
            <div className="pt-3 empty:hidden">
              <OsUpdate device={target.device} proven={false} />
            </div>
          )}
          {operation && (
            <div className="flex flex-col items-start gap-3 pt-3">
              <OperationPanel id={operation.id} />
              {isUnderWay && isOver(operation.state) && (
                <ButtonLink to={`/tickets/${archive.ticketNumber}`}>
                  Go on with ticket {archive.ticketNumber}
                </ButtonLink>
              )}
            </div>
          )}
          {mayStart && !crosses && (
            <StartRestore backup={backup} archive={archive} berth={target} onStarted={onStarted} />
          )}
          {/* It stays while the loss report is made, and so does the password in it. */}
          {crosses && target && (mayStart || foreseeing) && (
            <div className={clsx(!mayStart && 'hidden')}>
              <StartCrossing
                key={deviceId}
                backup={backup}
                archive={archive}
                berth={target}
                part={part}
                foreseen={foreseen}
                onForesee={onStarted}
                onStarted={(id) => {
                  setLastForeseen(report);
                  onStarted(id);
                }}
              />
            </div>
          )}
          {readiness.error && !isUnderWay && target && (
            <ProblemNote problem={problemFrom(readiness.error)} />
          )}
        </Side>
      </div>
    </Page>
  );
}

/** What was last asked for, where anything was; all of it otherwise. */
function partFrom(last: ChosenPart | null, all: readonly DataClass[]): Omit<Part, 'lookIn'> {
  if (last === null) return { classes: new Set(all), days: anyDay, without: nothingLeftOut };
  const classes = new Set(all.filter((id) => last.choice[classKey(id)]));
  return { classes, days: last.days, without: last.without };
}

/** Both rules: what was left out before stays out. */
const merged = (before: LeaveOut, more: LeaveOut): LeaveOut => ({
  videosFrom: more.videosFrom ?? before.videosFrom,
  doubles: before.doubles || more.doubles,
});

/** What truly goes over, and what would without a rule. */
function amountsOf({ report, sparable }: Foreseen, without: LeaveOut) {
  return report.map((line) => {
    const { doubles, videos } = savedBy(without, sparable, (id) => id === line.class);
    return { class: line.class, items: goesOver(line), bytes: line.bytes + doubles + videos };
  });
}

/** Whether it is a crossing that is told of, and whether all of it could go as it was instead. */
function crossingOf(
  readiness: { conditions: Condition[]; crossing: Condition[]; isSameFamily: boolean } | undefined,
  isPart: boolean,
  operation: Operation | null,
): { crosses: boolean; mayBeWhole: boolean } {
  const isMet = (id: string) =>
    readiness?.conditions.find((condition) => condition.id === id)?.met ?? false;
  const mayBeWhole = isMet('family') && isMet('empty');
  // A device of the family that takes all at once must be empty for either.
  const mustBeEmpty = readiness?.crossing.some((condition) => condition.id === 'empty') ?? true;
  const mustCross = !isMet('family') || (!isMet('empty') && !mustBeEmpty);
  if (operation?.kind === 'restore') return { crosses: false, mayBeWhole };
  if (operation) return { crosses: true, mayBeWhole };
  return { crosses: readiness !== undefined && (mustCross || isPart), mayBeWhole };
}

const reportOf = (operation: Operation): CrossingReport | null =>
  operation.kind === 'foresee' || operation.kind === 'cross'
    ? (operation.result?.report ?? null)
    : null;

function whatNow(
  target: Berth | null,
  away: string | null,
  operation: Operation | null,
  remedy: string | null,
  judged: boolean,
  /** What of it crosses; null where all of it goes as it is. */
  crosses: 'chosen' | 'in-hand' | null,
) {
  if (operation?.kind === 'foresee' && !isOver(operation.state)) {
    return { needs: false, sentence: 'Leave the device on its cable while it is read.' };
  }
  if (operation && !isOver(operation.state)) {
    return operation.needs
      ? { needs: true, sentence: operation.needs }
      : {
          needs: false,
          sentence: 'Leave the device on its cable until the end, even while it is away.',
        };
  }
  if (operation?.state === 'done' && operation.kind !== 'foresee')
    return {
      needs: true,
      sentence: 'Check with the customer: photographs, contacts, messages, home screen.',
    };
  if (operation?.problem) return { needs: true, sentence: operation.problem.next };
  if (!target && away !== null) {
    return {
      needs: false,
      sentence: `${away} is away and comes back by itself. Leave its cable free.`,
    };
  }
  if (!target) return { needs: true, sentence: 'Connect the device it goes onto to a free berth.' };
  if (remedy) return { needs: true, sentence: remedy };
  if (!judged) return { needs: false, sentence: 'Reading the device.' };
  if (crosses !== null) {
    return {
      needs: true,
      sentence: operation
        ? 'Go through with the customer what will arrive; then read the serial off the device, and send.'
        : crosses === 'in-hand'
          ? 'Type the password, and see what would arrive.'
          : 'Choose what shall cross, type the password, and see what would arrive.',
    };
  }
  return {
    needs: true,
    sentence:
      'Read the serial off the device, type its last four characters and the password, and start.',
  };
}

function Side({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="p-4">
      <h2 className="pb-2 text-large">{title}</h2>
      {children}
    </section>
  );
}

function Candidates({
  candidates,
  chosen,
  onChoose,
}: {
  candidates: readonly Berth[];
  chosen: string | null;
  onChoose: (id: string) => void;
}) {
  return (
    <div role="radiogroup" aria-label="Target device" className="flex flex-col gap-1">
      {candidates.map(
        ({ device, number }) =>
          device && (
            <label
              key={device.id}
              className={clsx(
                'flex cursor-pointer items-center gap-2 border px-2 py-1.5',
                device.id === chosen ? 'border-2 border-ink' : 'border-line',
              )}
            >
              <input
                type="radio"
                name="target"
                className="accent-ink"
                checked={device.id === chosen}
                onChange={() => onChoose(device.id)}
              />
              <span className="min-w-0">
                <span className="font-semibold">
                  Berth {number}, {device.familyName} {device.model}
                </span>
                <br />
                <Serial>{device.serial}</Serial>
              </span>
            </label>
          ),
      )}
    </div>
  );
}
