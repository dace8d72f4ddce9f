import { setTimeout as sleep } from 'node:timers/promises';
import {
  copyArchive,
  copyBegun,
  recoverArchive,
  removeCopy,
  unfinishedRun,
  verifySealed,
  type ArchiveFiles,
} from '@bright-cellar/archive';
import {
  archiveLock,
  bytesPerSecond,
  copyLock,
  Failure,
  type MoveState,
  type ProblemCode,
  type RackId,
} from '@bright-cellar/core';
import { and, eq } from 'drizzle-orm';
import { archiveForWork, recordCopy, recordGone, recordLeaving } from '../../archives/index.js';
import { copies, moveSteps, racks } from '../../database/schema.js';
import { speedLimit } from '../../engine/give-way.js';
import type { Job } from '../../engine/job.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { copyOn, type StepRow } from '../../moves/index.js';
import { archiveAt, freeName, rackHere, rackWithRoom } from '../../racks/index.js';
import { readSettings } from '../../settings/index.js';

const LOOK_EVERY_MS = 1_000;
/** Somebody adds to the archive again and again while it is moved: then it is left where it is. */
const ROUNDS = 8;
/** A rack that is here, and did not answer: so often its connection may have been cut. */
const CUTS = 3;

/** What makes one move impossible and says nothing of the others. */
const leftFor: readonly ProblemCode[] = [
  'archive-damaged',
  'archive-changed',
  'archive-of-another',
  'already-exists',
  'not-found',
];
/** A rack, or what lies on it, is not to be seen. */
const awayFor: readonly ProblemCode[] = ['rack-not-here', 'archive-not-here'];

type MoveJob = Job<'move'>;
type CopyRow = typeof copies.$inferSelect;

/**
 * Makes one move: the archive is copied, read back, recorded, and only then removed where it was. Waits for a rack that is
 * away, and for whoever works on the archive. What cannot be made is left as it is, with the reason.
 * @throws Failure what ends the whole plan for now, `rack-full` above all
 */
export async function makeMove(job: MoveJob, step: StepRow): Promise<void> {
  let [rounds, cuts] = [0, 0];
  for (;;) {
    await job.session.goOn();
    await untilHere(job, step);
    try {
      if (await tryMove(job, step)) return;
      rounds += 1;
      if (rounds > ROUNDS) {
        await leave(job, step, 'Something was added to it again and again.');
        return;
      }
    } catch (error) {
      job.signal.throwIfAborted();
      if (!(error instanceof Failure)) throw error;
      const { code } = error.problem;
      if (code === 'archive-in-use') await waitFor(job, 'It waits for other work on that archive.');
      else if (awayFor.includes(code) && !(await areHere(job, step))) continue;
      else if (awayFor.includes(code) && cuts < CUTS) {
        cuts += 1;
        await waitFor(job, 'A rack did not answer: it is asked once more.');
      } else if (code === 'archive-not-here' || leftFor.includes(code)) {
        await leave(job, step, error.problem.what);
        return;
      } else throw error;
    } finally {
      await job.progress.needs(null);
    }
  }
}

/** @returns whether it is over; once more, where something was added meanwhile */
async function tryMove(job: MoveJob, step: StepRow): Promise<boolean> {
  const { db } = job;
  const { archiveId, fromRackId, toRackId } = step;
  const both = [copyLock(archiveId, fromRackId), copyLock(archiveId, toRackId)];
  const isCopied = await job.holding([archiveLock(archiveId, 'shared'), ...both], async () => {
    const source = await copyOn(db, archiveId, fromRackId);
    if (!source) return false;
    const there = await copyOn(db, archiveId, toRackId);
    if (there && step.state === 'waiting') {
      // One that somebody else made counts by itself: it does not stand for this one.
      throw new Failure('already-exists', { what: 'Another copy of it lies there already.' });
    }
    if (there?.digest !== source.digest) await bringOver(job, step, source, there);
    return true;
  });
  if (!isCopied) {
    await leave(job, step, 'It does not lie there any more.');
    return true;
  }
  return job.holding([archiveLock(archiveId, 'exclusive'), ...both], async () => {
    const source = await copyOn(db, archiveId, fromRackId);
    const target = await copyOn(db, archiveId, toRackId);
    if (!source || target?.digest !== source.digest) return false;
    if (target.state === 'damaged') {
      await leave(job, step, 'The copy there was found damaged; it stays here too.');
      return true;
    }
    // What lies there now, on the very rack, is what was read back: only then may the other go.
    const { digest } = await recoverArchive(await archiveAt(db, target));
    if (digest !== target.digest) throw new Failure('archive-changed');
    const files = await archiveAt(db, source);
    if (step.state !== 'removing') {
      await mustHaveNoWork(files);
      await unitOfWork(job.acting, async (unit) => {
        await markIn(unit, step, { state: 'removing' });
        await recordLeaving(unit, source);
      });
      step.state = 'removing';
    }
    await removeCopy(files, { archive: archiveId, digest: source.digest });
    await unitOfWork(job.acting, async (unit) => {
      await recordGone(unit, source, job.operationId);
      await markIn(unit, step, { state: 'done' });
    });
    return true;
  });
}

/** Copies it, or brings the copy there up to date, and records that. */
async function bringOver(
  job: MoveJob,
  step: StepRow,
  source: CopyRow,
  there: CopyRow | null,
): Promise<void> {
  const { db, signal, progress, acting } = job;
  const { archiveId, toRackId } = step;
  const { archive } = await archiveForWork(db, archiveId);
  const hasEscrow = archive.escrow || source.escrowOwed;
  const folder = there?.folder ?? (await folderFor(job, step, source));
  const place = { rackId: toRackId, folder };
  const to = await archiveAt(db, place);
  const { copySpeed } = await readSettings(db);
  const keepTo = speedLimit(bytesPerSecond(copySpeed), signal);
  // Half of a move is sending it, the other half reading it back.
  let total = 0;
  const copied = await copyArchive({
    from: await archiveAt(db, source),
    to,
    onPhase: (_, bytes) => (total = bytes),
    onProgress: (bytes) => total > 0 && progress.add(bytes / 2, 0),
    pace: async (bytes) => {
      await job.session.goOn();
      await job.giveWay();
      await keepTo(bytes);
    },
    signal,
  });
  // It was decided there before and never recorded: what lies there is looked at before anybody relies on it.
  if (copied.sent.files === 0) await mustBeWhole(job, to);
  const { generation, manifestDigest: digest, payloadBytes: storedBytes, readBackMs } = copied;
  await unitOfWork(acting, async (unit) => {
    await recordCopy(
      unit,
      { archiveId, ...place, hasEscrow },
      { generation, digest, storedBytes },
      {
        ...{ operationId: job.operationId, startedBy: job.startedBy },
        ...{ readBytes: copied.sent.bytes, durationMs: readBackMs },
      },
    );
    await markIn(unit, step, { state: 'copied' });
  });
  step.state = 'copied';
}

/** A backup that was cut off goes on from what it left in the very archive: that is not thrown away. */
async function mustHaveNoWork(files: ArchiveFiles): Promise<void> {
  if ((await unfinishedRun(files)) === null) return;
  throw new Failure('archive-changed', {
    what: 'A backup into it was cut off and can go on from there: let it go on or give it up first.',
  });
}

async function mustBeWhole(job: MoveJob, files: ArchiveFiles): Promise<void> {
  const { threads, signal } = job;
  const report = await verifySealed(files, { level: 'bytes', threads, signal });
  if (!report.whole) throw new Failure('not-read-back');
}

/** The name that it has there, kept before anything is sent, so that whoever goes on finds it. */
async function folderFor(job: MoveJob, step: StepRow, source: CopyRow): Promise<string> {
  const { db } = job;
  if (step.toFolder !== null) return step.toFolder;
  const { store } = await rackWithRoom(db, step.toRackId, source.storedBytes);
  const folder = await freeName(
    store,
    source.folder,
    async (files) => (await copyBegun(files)) === step.archiveId,
  );
  await db.update(moveSteps).set({ toFolder: folder }).where(isStep(step));
  step.toFolder = folder;
  return folder;
}

const isStep = ({ operationId, step }: StepRow) =>
  and(eq(moveSteps.operationId, operationId), eq(moveSteps.step, step));

async function markIn(unit: Unit, step: StepRow, set: { state: MoveState; why?: string }) {
  await unit.tx.update(moveSteps).set(set).where(isStep(step));
  unit.changed('operation', step.operationId);
  unit.changed('rack', step.fromRackId);
  unit.changed('rack', step.toRackId);
}

async function mark({ acting }: MoveJob, step: StepRow, state: MoveState, why = '') {
  await unitOfWork(acting, (unit) => markIn(unit, step, { state, why }));
  step.state = state;
}

const leave = (job: MoveJob, step: StepRow, why: string) => mark(job, step, 'left', why);

async function waitFor({ progress, signal }: MoveJob, sentence: string): Promise<void> {
  await progress.needs(sentence);
  progress.rest();
  await sleep(LOOK_EVERY_MS, undefined, { signal });
}

/** Names of racks of a move that are not here. @throws Failure `not-found` where one is not in use any more */
async function away({ db }: MoveJob, { fromRackId, toRackId }: StepRow): Promise<string[]> {
  const names: string[] = [];
  for (const id of [fromRackId, toRackId]) {
    try {
      await rackHere(db, id);
    } catch (error) {
      if (!(error instanceof Failure) || error.problem.code !== 'rack-not-here') throw error;
      names.push(await nameOf(id));
    }
  }
  return names;

  async function nameOf(id: RackId): Promise<string> {
    const [rack] = await db.select({ name: racks.name }).from(racks).where(eq(racks.id, id));
    return rack?.name ?? 'the rack';
  }
}

const areHere = async (job: MoveJob, step: StepRow) => (await away(job, step)).length === 0;

/** Waits for racks that are away: a drive that is carried from one shop to another takes its time. */
async function untilHere(job: MoveJob, step: StepRow): Promise<void> {
  for (;;) {
    const names = await away(job, step);
    if (names.length === 0) return;
    await job.session.goOn();
    await waitFor(job, `Connect ${names.join(' and ')}: the plan goes on when it is here.`);
  }
}
