import { eq } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { audit, outbox, settings } from '../database/schema.js';
import { testCatalogue } from '../testing/catalogue.js';
import { theProgram } from './actor.js';
import { noteOnly, unitOfWork } from './unit-of-work.js';

const { db, acting, clock, woken, told } = await testCatalogue();

const lines = () => db.select().from(audit).orderBy(audit.id);

test('rows, the record and whom it concerns are there together, with who acted and when', async () => {
  clock.forward(1000);
  const before = woken.times;
  await unitOfWork(acting, async (unit) => {
    await unit.tx.insert(settings).values({ name: 'one', value: 1 });
    unit.note({ action: 'settings-changed', what: 'One was set.' });
    unit.changed('settings');
    unit.changed('ticket', '26110001');
    unit.changed('settings');
  });
  expect(await told()).toEqual(['settings ', 'ticket 26110001']);
  expect((await lines()).at(-1)).toMatchObject({
    technicianId: acting.actor.technicianId,
    at: clock.now(),
    what: 'One was set.',
  });
  expect(woken.times).toBe(before + 1);
});

test('nothing of it is there when any part fails, and nobody is woken', async () => {
  const [before, wokenBefore] = [await told(), woken.times];
  const work = unitOfWork(acting, async (unit) => {
    await unit.tx.insert(settings).values({ name: 'two', value: 2 });
    unit.note({ action: 'settings-changed', what: 'Two was set.' });
    unit.changed('settings');
    throw new Error('in the middle');
  });
  await expect(work).rejects.toThrow('in the middle');
  expect(await db.select().from(settings).where(eq(settings.name, 'two'))).toEqual([]);
  expect((await lines()).filter(({ what }) => what === 'Two was set.')).toEqual([]);
  expect(await told()).toEqual(before);
  expect(woken.times).toBe(wokenBefore);
});

test('what lists keep of a thing is made in the same transaction: where it cannot be, nothing is there', async () => {
  const failing = { ...acting, projections: { ticket: () => Promise.reject(new Error('no row')) } };
  const before = await told();
  const work = unitOfWork(failing, async (unit) => unit.changed('ticket', '26110001'));
  await expect(work).rejects.toThrow('no row');
  expect(await told()).toEqual(before);
});

test('two that wait for each other both come through, and are told once each', async () => {
  await db.insert(settings).values([
    { name: 'left', value: 0 },
    { name: 'right', value: 0 },
  ]);
  await db.delete(outbox);
  const both = [
    ['left', 'right'],
    ['right', 'left'],
  ] as const;
  let tries = 0;
  let holding = 0;
  let meet = (): void => undefined;
  const bothHoldOne = new Promise<void>((resolve) => {
    meet = resolve;
  });
  await Promise.all(
    both.map(([first, second]) =>
      unitOfWork(acting, async (unit) => {
        tries += 1;
        await unit.tx.update(settings).set({ value: tries }).where(eq(settings.name, first));
        if ((holding += 1) === 2) meet();
        await bothHoldOne;
        await unit.tx.update(settings).set({ value: tries }).where(eq(settings.name, second));
        unit.changed('ticket', first);
      }),
    ),
  );
  expect(tries).toBeGreaterThan(2);
  expect((await told()).sort()).toEqual(['ticket left', 'ticket right']);
});

test('what the program does by itself names nobody', async () => {
  await noteOnly({ ...acting, actor: theProgram }, { action: 'desk-seen', what: 'Seen.' });
  expect((await lines()).at(-1)).toMatchObject({ technicianId: null, what: 'Seen.' });
});
