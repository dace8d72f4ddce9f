import { setTimeout as sleep } from 'node:timers/promises';
import type { ArchiveRow, BenchView, Operation } from '@bright-cellar/contract';
import { expect, test } from 'vitest';
import { openShop } from './open-shop.js';
import { eventually, openOwned, OWNED } from './product.js';

const { product, api, db } = await openShop({ ownServer: true });
await openOwned(product);
// It would go with its server.
await db.end();

/** What the application answers from now on, until it is itself again. */
async function answersUntilBack(): Promise<Set<string>> {
  const codes = new Set<string>();
  await eventually('the catalogue', async () => {
    const { status, body } = await api.get<BenchView & { code?: string }>('/api/tickets');
    if (status !== 200) codes.add(`${status} ${body.code}`);
    return status === 200;
  });
  return codes;
}

test('the database dies while a backup is being committed: it waits, and the backup is there', async () => {
  await product.press(OWNED, { do: 'faults', faults: { rate: 300_000 } });
  const { body: started } = await api.startBackup(await api.openTicket(OWNED));
  await eventually('half of it', async () => {
    const { body: now } = await api.get<Operation>(`/api/operations/${started.id}`);
    return now.phase === 'taking' && now.doneBytes > now.totalBytes / 2;
  });
  // Deaf first: whatever the work wants on record before it decides is asked for and not answered.
  process.kill(product.databasePid(), 'SIGSTOP');
  await product.press(OWNED, { do: 'faults', faults: { rate: null } });
  await sleep(3_000);
  process.kill(product.databasePid(), 'SIGKILL');
  for (const answer of await answersUntilBack()) expect(answer).toBe('503 database-away');
  const ended = await api.ended(started.id);
  expect(ended).toMatchObject({ state: 'done', problem: null });
  const archives = await api.all<ArchiveRow>('/api/archives');
  expect(archives.map(({ id }) => id)).toContain(ended.archiveId);
});
