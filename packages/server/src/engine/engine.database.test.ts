import { randomUUID } from 'node:crypto';
import {
  archiveLock,
  deadlines,
  deviceLock,
  Failure,
  linkDeviceSchema,
  operationKinds,
  problemOf,
  type Lock,
  type OperationInput,
  type OperationKind,
} from '@bright-cellar/core';
import { DeviceLink } from '@bright-cellar/device-link';
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, describe, expect, test } from 'vitest';
import { audit, operationLocks, operations } from '../database/schema.js';
import { makeLog } from '../log.js';
import type { Context } from '../shop.js';
import { testCatalogue } from '../testing/catalogue.js';
import { continueOperation, pauseOperation, startOperation, stopOperation } from './commands.js';
import type { Ending, Job, Runs } from './job.js';
import { isHeld } from './locks.js';
import { Runner, type Workplace } from './runner.js';
import { operationById } from './views.js';
import { newArchiveId, newBackupId, newCopyId } from '../testing/ids.js';

const { db, acting, clock, addTicket, told } = await testCatalogue();

type Proof = Ending<'prove'>;
const wellDone: Proof = {
  what: 'It is whole.',
  result: { items: 1, bytes: 2, failed: [], durationMs: 3, storedBytes: 4, digest: 'd' },
};

/** What the next piece of work does; each test says. */
let work: (job: Job<'prove'>) => Promise<Proof>;
let recover: () => Promise<Proof | null> = async () => null;
/** Work that goes on until somebody ends it. */
const untilAborted = ({ signal }: Pick<Job<'prove'>, 'signal'>) =>
  new Promise<never>((_, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason as Error));
  });
const notHere = (): Promise<never> => Promise.reject(new Error('no such work in this test'));
const others = Object.fromEntries(
  operationKinds.map((kind) => [kind, async () => ({ run: notHere })]),
) as Record<OperationKind, () => Promise<{ run: typeof notHere }>>;
const runs: Runs = {
  ...others,
  prove: async () => ({ run: (job) => work(job), recover: () => recover() }),
  // On a device, until somebody ends it.
  erase: async () => ({ run: untilAborted }),
};
const place: Workplace = {
  acting,
  link: new DeviceLink({ address: 'http://127.0.0.1:1', token: '' }),
  log: makeLog('work', 'silent'),
  runs,
  further: () => undefined,
  waitForDeviceMs: () => Promise.resolve(0),
  inHand: () => Promise.reject(new Failure('look-in-over')),
};
let runner = new Runner(place);
afterAll(() => runner.close());

/** The server's side, its orders carried over in this process. */
const orders = {
  start: (id: string, held: object) => order('start', { id, ...held }),
  stop: (id: string) => order('stop', { id }),
  pause: (id: string, paused: boolean) => order('pause', { id, paused }),
};
const order = (name: string, body: object) =>
  runner
    .orders()
    .find((handled) => handled.name === name)
    ?.handle(body);
const context = { ...acting, orders } as unknown as Context;
const deaf = {
  ...acting,
  orders: { ...orders, start: () => Promise.reject(new Failure('link-down')) },
} as unknown as Context;
/** An order that never comes to anybody: whoever gave it died. */
const lost = {
  ...acting,
  orders: { ...orders, start: async () => undefined },
} as unknown as Context;

const input: OperationInput<'prove'> = {
  copyId: newCopyId(),
  level: 'full',
  expected: { items: 1, bytes: 2 },
};
const begin = (locks: Lock[], as = context) =>
  startOperation(
    as,
    {
      ...{ kind: 'prove', ticketId: null, ticketNumber: null, deviceId: null, deviceName: null },
      ...{ archiveId: newArchiveId(), backupId: newBackupId(), what: 'Proof started.' },
      locks,
      input,
    },
    { password: 'four words of brass' },
  );
const beginErase = () =>
  startOperation(
    context,
    {
      ...{ kind: 'erase', ticketId: null, ticketNumber: null, deviceName: null, what: 'Erase.' },
      ...{ archiveId: newArchiveId(), backupId: newBackupId() },
      deviceId: linkDeviceSchema.parse('d1'),
      locks: [deviceLock(randomUUID())],
      input: {
        ...{ serial: 'S', provenBackupId: newBackupId(), copyId: newCopyId(), contentRevision: '' },
        expected: { archive: newArchiveId(), digest: '' },
      },
    },
    {},
  );
const anArchive = () => archiveLock(randomUUID(), 'exclusive');
const stateOf = async (id: string) => (await operationById(db, id)).state;
const inState = (id: string, state: string) => expect.poll(() => stateOf(id)).toBe(state);
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'nothing',
    (error: unknown) => problemOf(error).code,
  );
beforeEach(() => {
  work = async () => wellDone;
  recover = async () => null;
});

describe('locks', () => {
  test('of many that want one thing for themselves at the same moment, one has it', async () => {
    work = untilAborted;
    const wanted = anArchive();
    const all = await Promise.all(
      Array.from({ length: 12 }, () => begin([deviceLock(randomUUID()), wanted]).catch(problemOf)),
    );
    const begun = all.flatMap((one) => ('id' in one ? [one] : []));
    expect(begun).toHaveLength(1);
    expect(all.filter((one) => 'code' in one && one.code === 'archive-in-use')).toHaveLength(11);
    expect(await isHeld(db, wanted)).toBe(true);
    await stopOperation(context, begun[0]?.id ?? '');
    await inState(begun[0]?.id ?? '', 'stopped');
    expect(await isHeld(db, wanted)).toBe(false);
    // The devices of those that were refused are not held by anybody.
    expect(await db.select().from(operationLocks)).toEqual([]);
  });

  test('any number share one; whoever wants it alone waits until the last is over', async () => {
    work = untilAborted;
    const id = randomUUID();
    const [shared, alone] = [archiveLock(id, 'shared'), archiveLock(id, 'exclusive')];
    const readers = await Promise.all([begin([shared]), begin([shared]), begin([shared])]);
    expect(await codeOf(begin([alone]))).toBe('archive-in-use');
    for (const reader of readers) {
      await stopOperation(context, reader.id);
      await inState(reader.id, 'stopped');
    }
    const writer = await begin([alone]);
    expect(await codeOf(begin([shared]))).toBe('archive-in-use');
    await stopOperation(context, writer.id);
    await inState(writer.id, 'stopped');
  });
});

describe('work', () => {
  test('that ends well leaves its result, a line in the record, no lock, and tells of itself', async () => {
    const wanted = anArchive();
    const { id } = await begin([wanted]);
    await inState(id, 'done');
    expect(await operationById(db, id)).toMatchObject({ kind: 'prove', result: { digest: 'd' } });
    expect(await isHeld(db, wanted)).toBe(false);
    const lines = (await db.select().from(audit)).map(({ what }) => what);
    expect(lines.slice(-2)).toEqual(['Proof started.', 'It is whole.']);
    expect((await told()).filter((one) => one === `operation ${id}`)).toHaveLength(2);
  });

  test('whose order nobody takes fails at once, and holds nothing', async () => {
    const wanted = anArchive();
    expect(await codeOf(begin([wanted], deaf))).toBe('link-down');
    expect(await isHeld(db, wanted)).toBe(false);
  });

  test('is paused, goes on, and is stopped: one state, and no press moves it where it may not go', async () => {
    work = untilAborted;
    const { id } = await begin([anArchive()]);
    // A proof cannot wait.
    expect(await codeOf(pauseOperation(context, id, true))).toBe('not-found');
    expect((await stopOperation(context, id)).state).not.toBe('running');
    await inState(id, 'stopped');
    expect((await stopOperation(context, id)).state).toBe('stopped');
    expect(await codeOf(continueOperation(context, id, again, {}))).toBe('not-found');
  });

  test('that can wait stands still within a second once a device is worked on, and goes on after', async () => {
    let steps = 0;
    work = async (job) => {
      const { signal } = job;
      for (; !signal.aborted; steps++) {
        await job.giveWay();
        await new Promise((resolve) => setTimeout(resolve, 5));
      }
      throw signal.reason;
    };
    const { id } = await begin([anArchive()]);
    await expect.poll(() => steps).toBeGreaterThan(3);
    const onDevice = await beginErase();
    await inState(onDevice.id, 'running');
    await new Promise((resolve) => setTimeout(resolve, 100));
    const stoodAt = steps;
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(steps).toBe(stoodAt);
    await orders.stop(onDevice.id);
    await expect.poll(() => steps).toBeGreaterThan(stoodAt + 3);
    await stopOperation(context, id);
    await inState(id, 'stopped');
  });

  test('that had ended well before the stop came has ended well', async () => {
    let finish = (): void => undefined;
    work = () =>
      new Promise((resolve) => {
        finish = () => resolve(wellDone);
      });
    const { id } = await begin([anArchive()]);
    await stopOperation(context, id);
    expect(await stateOf(id)).toBe('stopping');
    finish();
    await inState(id, 'done');
  });
});

const again = {
  ...{ locks: [], deviceId: null, action: 'backup-continued' as const, what: '' },
  input: input as never,
};

describe('what is cut off', () => {
  /** The work process dies; another one takes its place. */
  const dies = async () => {
    runner = new Runner(place);
    await runner.recover();
  };

  test('is interrupted, in the words of its kind, and free again', async () => {
    work = () => new Promise(() => undefined);
    const wanted = anArchive();
    const { id } = await begin([wanted]);
    await dies();
    expect(await operationById(db, id)).toMatchObject({
      state: 'interrupted',
      problem: { code: 'work-interrupted' },
    });
    expect(await isHeld(db, wanted)).toBe(false);
  });

  test('but was decided on its medium is done', async () => {
    work = () => new Promise(() => undefined);
    const { id } = await begin([anArchive()]);
    recover = async () => wellDone;
    await dies();
    expect(await stateOf(id)).toBe('done');
  });

  test('on a medium that is away now ends as interrupted, whoever finds out what became of it later', async () => {
    work = () => new Promise(() => undefined);
    const { id } = await begin([anArchive()]);
    recover = () => Promise.reject(new Failure('rack-not-here'));
    await dies();
    expect(await stateOf(id)).toBe('interrupted');
  });

  test('is left alone while somebody holds its lease', async () => {
    work = untilAborted;
    const { id } = await begin([anArchive()]);
    await runner.recover();
    expect(await stateOf(id)).toBe('running');
    await stopOperation(context, id);
    await inState(id, 'stopped');
  });
});

describe('a state that must be left in time', () => {
  test('an order that nobody took up is given up, and not before', async () => {
    const { id } = await begin([anArchive()], lost);
    await runner.recover();
    expect(await stateOf(id)).toBe('ordered');
    clock.forward((deadlines.ordered?.afterMs ?? 0) + 1);
    await runner.recover();
    expect(await stateOf(id)).toBe('interrupted');
    // Whoever takes it up now finds nothing to take up.
    expect(
      await codeOf(
        Promise.resolve(orders.start(id, { password: '', packagePassword: '', fromFolder: '' })),
      ),
    ).toBe('not-found');
  });

  test('work that does not stop is ended without it, however often it is asked, and what it says later changes nothing', async () => {
    let finish = (): void => undefined;
    work = () =>
      new Promise((resolve) => {
        finish = () => resolve(wellDone);
      });
    const wanted = anArchive();
    const { id } = await begin([wanted]);
    await stopOperation(context, id);
    clock.forward(deadlines.stopping?.afterMs ?? 0);
    await stopOperation(context, id);
    clock.forward(1);
    await runner.recover();
    expect(await stateOf(id)).toBe('stopped');
    expect(await isHeld(db, wanted)).toBe(false);
    finish();
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(await stateOf(id)).toBe('stopped');
  });

  test('a pause ends in a stop', async () => {
    work = untilAborted;
    const { number } = await addTicket();
    const { id } = await begin([anArchive()]);
    await db
      .update(operations)
      .set({ state: 'paused', deadline: clock.now() })
      .where(eq(operations.id, id));
    await runner.recover();
    await inState(id, 'stopped');
    expect(number).not.toBe('');
  });
});
