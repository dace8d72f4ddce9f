import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { archiveIn, BackupRun, withPassword } from '@bright-cellar/archive';
import type {
  AnyShelfPart,
  Archive,
  LookAmounts,
  LookConversation,
  LookHit,
  LookMessages,
  Rack,
} from '@bright-cellar/contract';
import { classOfPath } from '@bright-cellar/core';
import { mediaTypes } from '@bright-cellar/core/formats';
import mysql from 'mysql2/promise';
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
const ITEMS = Number(process.env.LOOK_ITEMS ?? 500_000);
const MESSAGES = Number(process.env.LOOK_MESSAGES ?? 200_000);
const PHOTOGRAPHS = Number(process.env.LOOK_PHOTOGRAPHS ?? 50_000);
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

/** Takes an item into the backup. */
type Put = (path: string, format: string, contents: Buffer) => Promise<void>;

async function fill(put: Put): Promise<void> {
  const say = words();
  const line = (count: number) =>
    Array.from({ length: count }, () => say.next().value as string).join(' ');
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
    const contents = Buffer.from(`${lines.join('\n')}\n`);
    await put(`messages/thread-001/${name}`, mediaTypes.thread, contents);
  }
  const pixels = { width: 320, height: 240, channels: 3, background: '#557' } as const;
  const picture = await sharp({ create: pixels })
    .withExif({ IFD0: { Model: 'Arc 7' }, IFD2: { DateTimeOriginal: '2026:03:02 10:00:00' } })
    .jpeg()
    .toBuffer();
  const below = (n: number) => Math.floor(n / 1000);
  // What follows the end of a picture is nobody's: each file is another.
  for (let n = 0; n < PHOTOGRAPHS; n++) {
    const contents = Buffer.concat([picture, Buffer.from(String(n))]);
    await put(`photographs/${below(n)}/${n}.jpg`, 'image/jpeg', contents);
  }
  const rest = Math.max(0, ITEMS - PHOTOGRAPHS - MESSAGES / OF_A_FILE);
  for (let n = 0; n < rest; n++)
    await put(
      `documents/${below(n)}/letter-${n}.txt`,
      'text/plain',
      Buffer.from(`${n} ${line(12)}`),
    );
}

/** An archive on a rack, made by the engine itself: a device would give so many items for hours. */
async function makeArchive(folder: string): Promise<void> {
  const run = await BackupRun.begin({
    ...{ files: archiveIn(folder), secret: withPassword(PASSWORD) },
    ...{ label: 'large', ticket: '', device: null, takenAt: new Date() },
  });
  const modified = new Date().toISOString();
  await fill(async (path, format, contents) => {
    const dataClass = classOfPath(path);
    await run.addContents(
      {
        ...{ class: dataClass, kind: 'file', path, bytes: contents.length, modified, format },
        ...{ mode: null, mark: '' },
      },
      () => [contents],
    );
  });
  await run.commit();
}

const seconds = (from: number) => ((performance.now() - from) / 1000).toFixed(1);
const at = (sorted: readonly number[], share: number) =>
  (sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0).toFixed(0);

test('a look into a large backup', async () => {
  const product = await startTestProduct({ only: [], lookInIdleMs: 3_600_000 });
  const api = await Api.signedIn(product);
  const print = (text: string) => process.stdout.write(`${text}\n`);
  try {
    const [rack] = (await api.get<Rack[]>('/api/racks')).body;
    const made = performance.now();
    await makeArchive(join(rack?.mounted ?? '', 'large'));
    print(
      `${ITEMS} items, ${MESSAGES} messages, ${PHOTOGRAPHS} photographs; made in ${seconds(made)} s`,
    );
    const bringing = await api.post('/api/bring-ins', {
      ...{ rackId: rack?.id, folder: 'large', path: null, password: PASSWORD },
    });
    const brought = await api.ended(bringing.body.id, 3_000_000);
    expect(brought).toMatchObject({ state: 'done', problem: null });
    const { body: archive } = await api.get<Archive>(`/api/archives/${brought.archiveId}`);
    const { ticketNumber } = archive;
    const backup = { backupId: archive.backups[0]?.id };
    // The visit of what was brought in is over; somebody looks into it on one that is not.
    const db = await mysql.createConnection(product.databaseSetupUrl);
    await db.query('update tickets set closed_at = null where number = ?', [ticketNumber]);
    await db.end();
    const agreed = await api.post(`/api/tickets/${ticketNumber}/agreements`, {
      ...{ kind: 'look-in', given: true, days: null },
    });
    expect(agreed.body).not.toHaveProperty('code');
    const memory = (of: 'VmRSS' | 'VmHWM') => {
      const status = readFileSync(`/proc/${product.workPid()}/status`, 'utf8');
      return Math.round(Number(new RegExp(`${of}:\\s+(\\d+)`).exec(status)?.[1]) / 1000);
    };
    print(`work process before: ${memory('VmRSS')} MB, at most so far ${memory('VmHWM')} MB`);
    // What it took to bring the archive in is another matter: from here on the most is counted anew.
    writeFileSync(`/proc/${product.workPid()}/clear_refs`, '5');
    const opened = performance.now();
    const begun = await api.post<{ id: string }>(`/api/backups/${backup.backupId}/look-ins`, {
      ...{ password: PASSWORD, reason: 'How long does it take?' },
    });
    expect(begun.body).not.toHaveProperty('code');
    const { id } = begun.body;
    const amounts = async () => (await api.get<LookAmounts>(`/api/look-ins/${id}`)).body;
    await amounts();
    print(`first screen after ${seconds(opened)} s`);
    await eventually('all of it to be read', async () => (await amounts()).isAll, 3_000_000);
    print(`all of it read after ${seconds(opened)} s`);
    await eventually('it to be dated', async () => !(await amounts()).isDating, 3_000_000);
    print(`photographs dated after ${seconds(opened)} s`);
    print(`work process: ${memory('VmHWM')} MB at most, ${memory('VmRSS')} MB now`);

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
  }
});
