import { randomUUID } from 'node:crypto';
import { problem, type OperationResult } from '@bright-cellar/core';
import { runSorts, type Operation } from '@bright-cellar/contract';
import { beforeAll, describe, expect, test } from 'vitest';
import { PAGE_ROWS } from '../database/page.js';
import { operations } from '../database/schema.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newArchiveId, newBackupId } from '../testing/ids.js';
import { dayReport, dayRuns } from './reports.js';

const { db, acting } = await testCatalogue();
const by = acting.actor.technicianId;
const DAY = '2026-11-20';
const COUNT = 2 * PAGE_ROWS + 5;

type Row = typeof operations.$inferInsert;
const outcome = { items: 1, failed: [], durationMs: 1000 };
const exported: OperationResult<'export'> = {
  ...{ ...outcome, bytes: 7, form: 'file' as const, packageBytes: 8, wrote: 'x.tar.age' },
};
async function addRun(at: string, change: Partial<Row>): Promise<void> {
  await db.insert(operations).values({
    ...{ id: randomUUID(), kind: 'export', state: 'done', phase: 'exporting', startedBy: by },
    ...{ startedAt: new Date(at), archiveId: newArchiveId(), backupId: newBackupId() },
    input: { version: 1, value: {} },
    ...change,
  });
}

beforeAll(async () => {
  // Of other days, and the first and last moments of this one.
  for (const at of ['2026-11-19T23:59:59.999', '2026-11-21T00:00:00']) await addRun(at, {});
  await addRun(`${DAY}T00:00:00`, { result: { version: 1, value: exported } });
  await addRun(`${DAY}T23:59:59.999`, { state: 'failed', problem: problem('rack-full') });
  for (let n = 2; n < COUNT; n++) {
    const kind = n % 2 === 0 ? 'export' : 'prove';
    await addRun(`${DAY}T10:${String(n % 3).padStart(2, '0')}:00`, { kind, doneBytes: 100 });
  }
});

test('a day is added up hour by hour, from its first moment to its last, however much ran', async () => {
  const { hours } = await dayReport(db, DAY);
  expect(hours.map(({ hour }) => hour)).toEqual(Array.from({ length: 24 }, (_, hour) => hour));
  expect(hours.filter(({ runs }) => runs > 0)).toEqual([
    { hour: 0, runs: 1, failed: 0, bytes: 7 },
    { hour: 10, runs: COUNT - 2, failed: 0, bytes: (COUNT - 2) * 100 },
    { hour: 23, runs: 1, failed: 1, bytes: 0 },
  ]);
});

test('of a further backup only what is new counts, and of what failed what was carried', async () => {
  const at = '2026-11-22T09:00:00';
  const result = { ...outcome, bytes: 900, newBytes: 30 };
  await addRun(at, { result: { version: 1, value: result } });
  await addRun(at, { doneBytes: 4, state: 'failed', problem: problem('device-left') });
  const { hours } = await dayReport(db, '2026-11-22');
  expect(hours[9]).toEqual({ hour: 9, runs: 2, failed: 1, bytes: 34 });
});

describe.each(runSorts)('what ran, sorted by %s', (sort) => {
  test.each(['asc', 'desc'] as const)('%s, is told a page at a time, each once', async (order) => {
    const rows: Operation[] = [];
    let after: string | null = '';
    let pages = 0;
    while (after !== null) {
      const page: Awaited<ReturnType<typeof dayRuns>> = await dayRuns(db, {
        ...{ day: DAY, sort, order, after },
      });
      expect(page.total).toBe(COUNT);
      rows.push(...page.rows);
      after = page.next;
      pages += 1;
    }
    expect(pages).toBe(3);
    expect(new Set(rows.map(({ id }) => id)).size).toBe(COUNT);
    const keys = rows.map((row) => (sort === 'work' ? row.kind : row.startedAt));
    const sorted = [...keys].sort();
    expect(keys).toEqual(order === 'asc' ? sorted : sorted.reverse());
  });
});
