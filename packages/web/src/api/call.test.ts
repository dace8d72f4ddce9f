import { routes, type BenchView, type Operation } from '@bright-cellar/contract';
import { problem } from '@bright-cellar/core';
import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { ApiFailure, call, problemFrom, rememberCsrfToken } from './call.js';
import { aSession } from '../testing/made-up.js';
import { forgetShop, lockShop, placeBench, placeOperation, placeTold, queries } from './queries.js';

const asked = vi.fn<(url: string, init: RequestInit) => Promise<Response>>();
beforeEach(() => vi.stubGlobal('fetch', asked));
afterEach(() => {
  asked.mockReset();
  vi.unstubAllGlobals();
});
const answers = (body: unknown, status = 200) =>
  asked.mockResolvedValue(new Response(JSON.stringify(body), { status }));

async function failureOf(work: Promise<unknown>) {
  const error: unknown = await work.then(
    () => null,
    (thrown: unknown) => thrown,
  );
  if (!(error instanceof ApiFailure)) throw new Error('it did not fail as a call fails');
  return error.problem;
}

describe('a call', () => {
  test('puts parameters into the path, queries behind it, and the token into the header', async () => {
    answers([]);
    rememberCsrfToken('token-1');
    await call(routes.customers, { query: { text: 'a & b' } });
    // What is answered is no ticket: it is not taken for one.
    const unfit = await failureOf(call(routes.ticket, { params: { number: '26/11' } }));
    expect(unfit).toMatchObject({ code: 'unexpected', next: 'Reload the page.' });
    expect(asked.mock.calls.map(([url]) => url)).toEqual([
      '/api/customers?text=a+%26+b',
      '/api/tickets/26%2F11',
    ]);
    expect(asked.mock.calls[0]?.[1].headers).toMatchObject({ 'x-csrf-token': 'token-1' });
  });

  test('sends a password in the body, never in the address', async () => {
    answers(operation('00000000-0000-4000-8000-000000000001', 'running'));
    await call(routes.startProve, {
      params: { id: 'b-1' },
      body: { level: 'full', fromDesk: false, password: 'four words here now' },
    });
    const [url, init] = asked.mock.calls[0] ?? [];
    expect(url).toBe('/api/backups/b-1/proofs');
    expect(init?.body).toBe('{"level":"full","fromDesk":false,"password":"four words here now"}');
  });

  test('passes a problem on unchanged', async () => {
    const told = problem('rack-full', { what: 'Alder has 3 GB free.' });
    answers(told, 409);
    expect(await failureOf(call(routes.racks))).toEqual(told);
  });

  test.each([
    ['rubbish', () => asked.mockResolvedValue(new Response('<html>', { status: 502 }))],
    ['no server', () => asked.mockRejectedValue(new TypeError('fetch failed'))],
  ])('%s becomes a problem that says what is safe', async (_, how) => {
    how();
    const told = await failureOf(call(routes.racks));
    expect(told.code).toBe('unexpected');
    expect(told.safe).not.toBe('');
    expect(problemFrom(new Error('anything')).code).toBe('unexpected');
  });
});

const operation = (id: string, state: Operation['state']): Operation => ({
  id,
  kind: 'backup',
  state,
  ticketNumber: null,
  deviceId: 'd',
  deviceName: null,
  archiveId: null,
  backupId: null,
  estimate: null,
  retryable: 0,
  phase: 'taking',
  doneBytes: 0,
  totalBytes: 0,
  doneItems: 0,
  totalItems: 0,
  rate: 0,
  leftLowMs: null,
  leftHighMs: null,
  needs: null,
  startedAt: '2026-11-24T04:00:00.000Z',
  endedAt: null,
  startedBy: 'Wren',
  result: null,
  problem: null,
  keptBytes: null,
});

describe('what is known on screen', () => {
  test('an operation is listed while it runs, once, and found by its id after', () => {
    const client = new QueryClient();
    const listed = () => client.getQueryData(queries.operations().queryKey)?.map((o) => o.id);
    placeOperation(client, operation('a', 'running'));
    placeOperation(client, operation('b', 'running'));
    placeOperation(client, operation('a', 'running'));
    expect(listed()).toEqual(['b', 'a']);
    placeOperation(client, operation('a', 'done'));
    expect(listed()).toEqual(['b']);
    expect(client.getQueryData(queries.operation('a').queryKey)?.state).toBe('done');
  });

  test('an answer that was overtaken by the end of the work does not let it run again; going on from there does', () => {
    const client = new QueryClient();
    const stateNow = () => client.getQueryData(queries.operation('a').queryKey)?.state;
    placeOperation(client, operation('a', 'done'));
    placeOperation(client, operation('a', 'running'));
    expect(stateNow()).toBe('done');
    expect(client.getQueryData(queries.operations().queryKey) ?? []).toEqual([]);
    placeOperation(client, {
      ...operation('a', 'running'),
      startedAt: '2026-11-24T05:00:00.000Z',
    });
    expect(stateNow()).toBe('running');
  });

  test('what was told while older work was on its way is asked once more', async () => {
    const client = new QueryClient();
    const { queryKey } = queries.operations();
    const waiting = { ...operation('a', 'running'), needs: 'Confirm it.' };
    const answers: ((list: Operation[]) => void)[] = [];
    const watching = new QueryObserver(client, {
      queryKey,
      queryFn: () => new Promise<Operation[]>((resolve) => answers.push(resolve)),
    });
    const leave = watching.subscribe(() => undefined);
    placeTold(client, waiting);
    expect(watching.getCurrentResult().data).toEqual([waiting]);
    answers[0]?.([operation('a', 'running')]);
    await expect.poll(() => answers).toHaveLength(2);
    answers[1]?.([waiting]);
    await expect.poll(() => client.isFetching()).toBe(0);
    expect(client.getQueryData(queryKey)).toEqual([waiting]);
    leave();
  });

  test('what was told before the answer to whoever started it is not lost', async () => {
    const client = new QueryClient();
    const waiting = { ...operation('a', 'running'), needs: 'Confirm it.' };
    const { queryKey } = queries.operation('a');
    const watching = new QueryObserver(client, { queryKey, queryFn: () => waiting });
    client.setQueryData(queryKey, undefined);
    placeTold(client, waiting);
    const leave = watching.subscribe(() => undefined);
    placeOperation(client, operation('a', 'running'));
    await expect.poll(() => client.getQueryData(queryKey)?.needs).toBe('Confirm it.');
    leave();
  });

  test('a screen stays locked though an answer from before comes late', async () => {
    const client = new QueryClient();
    const { queryKey } = queries.session();
    const open = { ...aSession(), locked: false };
    client.setQueryData(queryKey, open);
    const answers: ((session: typeof open) => void)[] = [];
    const queryFn = () => new Promise<typeof open>((resolve) => answers.push(resolve));
    const leave = new QueryObserver(client, { queryKey, queryFn }).subscribe(() => undefined);
    expect(answers).toHaveLength(1);
    lockShop(client);
    answers[0]?.(open);
    await expect.poll(() => client.isFetching()).toBe(0);
    expect(client.getQueryData(queryKey)?.locked).toBe(true);
    leave();
  });

  test('what the bench is now is not taken back by a first answer from before', async () => {
    const client = new QueryClient();
    const { queryKey } = queries.bench();
    const bench = (connected: boolean) => ({ connected, storage: false, berths: [], away: [] });
    const answers: ((answer: BenchView) => void)[] = [];
    const queryFn = () => new Promise<BenchView>((resolve) => answers.push(resolve));
    const leave = new QueryObserver(client, { queryKey, queryFn }).subscribe(() => undefined);
    expect(answers).toHaveLength(1);
    placeBench(client, bench(true));
    answers[0]?.(bench(false));
    await expect.poll(() => client.isFetching()).toBe(0);
    await Promise.resolve();
    expect(client.getQueryData(queryKey)?.connected).toBe(true);
    leave();
  });

  test('nothing of the shop stays when nobody is signed in', () => {
    const client = new QueryClient();
    client.setQueryData(queries.racks().queryKey, []);
    placeOperation(client, operation('a', 'running'));
    forgetShop(client);
    expect(
      client
        .getQueryCache()
        .getAll()
        .map((q) => q.queryKey),
    ).toEqual([['session']]);
    expect(client.getQueryData(queries.session().queryKey)).toBeNull();
  });
});
