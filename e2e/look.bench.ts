import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type {
  AnyShelfPart,
  LookAmounts,
  LookConversation,
  LookHit,
  LookMessages,
} from '@bright-cellar/contract';
import sharp from 'sharp';
import { expect, test } from 'vitest';
import { Api } from './api.js';
import { eventually, PASSWORD, startTestProduct } from './product.js';

/**
 * `npm run bench:look`: a look into a large backup, through the whole product: how long until its first screen, until all of it was
 * read, and until photographs are dated; how long a search, a page of a conversation and a page of photographs take beside the
 * counter’s own list, asked in turns; and what memory the work process takes. `LOOK_ITEMS`, `LOOK_MESSAGES` and
 * `LOOK_PHOTOGRAPHS` say how large.
 */
const ITEMS = Number(process.env.LOOK_ITEMS ?? 100_000);
const MESSAGES = Number(process.env.LOOK_MESSAGES ?? 200_000);
const PHOTOGRAPHS = Number(process.env.LOOK_PHOTOGRAPHS ?? 10_000);
const ROUNDS = 25;
const OF_A_FILE = 2000;
const WORDS = 'ferry quay tide lamp kettle orchard bread rain choir ladder harbour supper'.split(
  ' ',
);

/** Words that come out the same each time. */
function* words(): Generator<string> {
  for (let state = 4680; ;) {
    state = (state * 1103515245 + 12345) % 2147483648;
    yield WORDS[state % WORDS.length] ?? '';
  }
}

async function fill(folder: string): Promise<void> {
  const say = words();
  const line = (count: number) =>
    Array.from({ length: count }, () => say.next().value as string).join(' ');
  const thread = join(folder, 'messages/thread-001');
  mkdirSync(thread, { recursive: true });
  for (let first = 0; first < MESSAGES; first += OF_A_FILE) {
    const lines = Array.from({ length: OF_A_FILE }, (_, n) =>
      JSON.stringify({
        at: new Date(1.5e12 + (first + n) * 600_000).toISOString(),
        from: n % 2 === 0 ? 'me' : '+44 7700 900001',
        text: line(8),
        attachment: null,
      }),
    );
    const name = `${String(first).padStart(7, '0')}.jsonl`;
    writeFileSync(join(thread, name), `${lines.join('\n')}\n`);
  }
  const pixels = { width: 320, height: 240, channels: 3, background: '#557' } as const;
  const picture = await sharp({ create: pixels })
    .withExif({ IFD0: { Model: 'Arc 7' }, IFD2: { DateTimeOriginal: '2026:03:02 10:00:00' } })
    .jpeg()
    .toBuffer();
  const inFolders = (
    dataClass: string,
    count: number,
    write: (n: number) => [string, Buffer | string],
  ) => {
    for (let n = 0; n < count; n++) {
      const below = join(folder, dataClass, String(Math.floor(n / 1000)));
      if (n % 1000 === 0) mkdirSync(below, { recursive: true });
      const [name, contents] = write(n);
      writeFileSync(join(below, name), contents);
    }
  };
  // What follows the end of a picture is nobody's: each file is another.
  inFolders('photographs', PHOTOGRAPHS, (n) => [
    `${n}.jpg`,
    Buffer.concat([picture, Buffer.from(String(n))]),
  ]);
  const rest = Math.max(0, ITEMS - PHOTOGRAPHS - MESSAGES / OF_A_FILE);
  inFolders('documents', rest, (n) => [`letter-${n}.txt`, `${n} ${line(12)}`]);
}

const seconds = (from: number) => ((performance.now() - from) / 1000).toFixed(1);
const at = (sorted: readonly number[], share: number) =>
  (sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0).toFixed(0);

test('a look into a large backup', async () => {
  const product = await startTestProduct({ only: [], lookInIdleMs: 3_600_000 });
  const api = await Api.signedIn(product);
  const folder = mkdtempSync(join(tmpdir(), 'cellar-large-'));
  const print = (text: string) => process.stdout.write(`${text}\n`);
  try {
    await fill(folder);
    const { facts } = await product.plugFolder(folder, 1);
    const ticket = await api.openTicket(facts.id);
    const began = performance.now();
    const started = await api.startBackup(ticket);
    const backup = await api.ended(started.body.id, 3_000_000);
    expect(backup.state).toBe('done');
    print(
      `${ITEMS} items, ${MESSAGES} messages, ${PHOTOGRAPHS} photographs; backed up in ${seconds(began)} s`,
    );
    await api.post(`/api/tickets/${ticket}/agreements`, {
      kind: 'look-in',
      given: true,
      days: null,
    });
    const opened = performance.now();
    const begun = await api.post<{ id: string }>(`/api/backups/${backup.backupId}/look-ins`, {
      ...{ password: PASSWORD, reason: 'How long does it take?' },
    });
    const { id } = begun.body;
    const amounts = async () => (await api.get<LookAmounts>(`/api/look-ins/${id}`)).body;
    await amounts();
    print(`first screen after ${seconds(opened)} s`);
    await eventually('all of it to be read', async () => (await amounts()).isAll, 3_000_000);
    print(`all of it read after ${seconds(opened)} s`);
    await eventually('it to be dated', async () => !(await amounts()).isDating, 3_000_000);
    print(`photographs dated after ${seconds(opened)} s`);
    const status = readFileSync(`/proc/${product.workPid()}/status`, 'utf8');
    print(
      `work process: ${Math.round(Number(/VmHWM:\s+(\d+)/.exec(status)?.[1]) / 1000)} MB at most`,
    );

    const look = `/api/look-ins/${id}`;
    const say = words();
    const asks: Record<string, () => Promise<unknown>> = {
      'the counter’s list (baseline)': () => api.get('/api/tickets?sort=opened&order=desc&after='),
      'search in messages': () =>
        api.post<{ rows: LookHit[] }>(`${look}/search`, {
          ...{ text: `${say.next().value} ${say.next().value}`, within: null },
        }),
      'search in everything else': () =>
        api.post<AnyShelfPart[]>(`${look}/shelves`, { text: `letter ${Math.floor(ITEMS / 3)}` }),
      'a page of the conversation': () =>
        api.get<LookMessages>(`${look}/conversations/0/messages?from=${Math.floor(MESSAGES / 2)}`),
      'the list of conversations': () =>
        api.post<{ rows: LookConversation[] }>(`${look}/conversations`, { text: '' }),
      'a page of photographs': () =>
        api.post(`${look}/shelves/photographs`, { text: '', from: Math.floor(PHOTOGRAPHS / 2) }),
    };
    const times: Record<string, number[]> = {};
    for (let round = 0; round < ROUNDS; round++) {
      for (const [name, ask] of Object.entries(asks)) {
        const from = performance.now();
        await ask();
        // The first makes what all later ones use.
        if (round > 0) (times[name] ??= []).push(performance.now() - from);
        else print(`${name}, first: ${(performance.now() - from).toFixed(0)} ms`);
      }
    }
    const [base = 1] = Object.values(times).map((all) =>
      Number(
        at(
          all.toSorted((a, b) => a - b),
          0.5,
        ),
      ),
    );
    for (const [name, all] of Object.entries(times)) {
      const sorted = all.toSorted((a, b) => a - b);
      print(
        `${name}: p50 ${at(sorted, 0.5)} ms, p95 ${at(sorted, 0.95)} ms, ${(Number(at(sorted, 0.5)) / base).toFixed(1)} × the baseline`,
      );
    }
  } finally {
    await product.stop();
    rmSync(folder, { recursive: true, force: true });
  }
});
