import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { beforeAll, expect, test } from 'vitest';
import {
  lookMediaPath,
  lookPicturePath,
  type AnyShelfPart,
  type Archive,
  type Comparison,
  type RestoreChoices,
  type LookAmounts,
  type LookConversation,
  type LookDifference,
  type LookFile,
  type LookHit,
  type LookIn,
  type LookMessages,
  type LookSamples,
  type ShelfId,
  type ShelfPart,
} from '@bright-cellar/contract';
import { Api } from './api.js';
import { openShop } from './open-shop.js';
import { eventually, OWNED, PASSCODE, PASSWORD, JOSS } from './product.js';

const IDLE_MS = 4_000;
const { product, api, db } = await openShop({
  ...{ only: [OWNED], lookInIdleMs: IDLE_MS },
});

let ticket = '';
let backupId = '';
let archiveId = '';
beforeAll(async () => {
  await product.press(OWNED, { do: 'unlock', passcode: PASSCODE });
  await product.press(OWNED, { do: 'approve', passcode: PASSCODE });
  ({ ticket, backupId, archiveId } = await api.provenBackup(OWNED));
});

type Rows<Row> = { rows: Row[]; total: number };
const asked = { password: PASSWORD, reason: 'Is the letter to the harbour in it?' };
const begin = (more: object = {}, by = api) =>
  by.post<{ id: string; code?: string; what?: string }>(`/api/backups/${backupId}/look-ins`, {
    ...asked,
    ...more,
  });
const agree = (given: boolean) =>
  api.post(`/api/tickets/${ticket}/agreements`, { kind: 'look-in', given, days: null });
const amounts = (id: string, by = api) =>
  by.get<LookAmounts & { code?: string }>(`/api/look-ins/${id}`);
const opened = async (): Promise<string> => {
  const { status, body } = await begin();
  expect(body.what ?? status).toBe(200);
  return body.id;
};
const read = (id: string) =>
  eventually('all of the backup to be read', async () => {
    const { body } = await amounts(id);
    return body.isAll ? body : null;
  });
const over = (id: string) =>
  eventually(
    'the look-in to be over',
    async () => (await amounts(id)).body.code === 'look-in-over',
  );
const lines = async (): Promise<string[]> => {
  const [rows] = await db.query(
    "select what from audit where action in ('look-in-begun', 'look-in-ended') order by id",
  );
  return (rows as { what: string }[]).map(({ what }) => what);
};
/** What is closed is on record a moment later. */
const onRecord = (sentence: RegExp) =>
  eventually(`“${sentence.source}” on record`, async () =>
    sentence.test((await lines()).at(-1) ?? ''),
  );
const conversationsOf = async (id: string, text = '') =>
  (await api.post<Rows<LookConversation>>(`/api/look-ins/${id}/conversations`, { text })).body;
const messagesOf = async (id: string, conversation: number) =>
  (await api.get<LookMessages>(`/api/look-ins/${id}/conversations/${conversation}/messages?from=0`))
    .body;

const shelf = async <Id extends ShelfId>(id: string, name: Id, text = '') =>
  (await api.post<ShelfPart<Id>>(`/api/look-ins/${id}/shelves/${name}`, { text, from: 0 })).body;

test('nobody looks in without the customer’s word, the password, and what for', async () => {
  expect((await begin()).body).toMatchObject({
    ...{ code: 'not-agreed', what: 'The customer has not agreed that the shop looks inside.' },
  });
  await agree(true);
  expect((await begin({ password: 'another one' })).body.code).toBe('wrong-password');
  expect((await begin({ reason: ' ' })).status).toBe(422);
  expect((await api.get<LookIn[]>('/api/look-ins')).body).toEqual([]);
  expect(await lines()).toEqual([]);
});

test('the customer types the password on a page of their own, for this and nothing else', async () => {
  await agree(true);
  const { body } = await api.post<{ address: string }>(`/api/tickets/${ticket}/desk`, {
    action: 'look',
  });
  const customer = new Api({ address: product.deskAddress });
  const page = `/api${new URL(body.address).pathname}`;
  expect((await customer.post(page, { password: PASSWORD, reminder: '' })).status).toBe(200);
  const proof = { level: 'sample', fromDesk: true, password: '' };
  expect((await api.post(`/api/backups/${backupId}/proofs`, proof)).body.what).toMatch(
    /for something else/,
  );
  const opened = await api.post<{ id: string; what?: string }>(
    `/api/backups/${backupId}/look-ins`,
    { reason: asked.reason, fromDesk: true, password: '' },
  );
  expect(opened.body.what ?? opened.status).toBe(200);
  await api.send('DELETE', `/api/look-ins/${opened.body.id}`);
  // Forgotten once it was used.
  const again = await api.post(`/api/backups/${backupId}/look-ins`, {
    ...{ reason: asked.reason, fromDesk: true, password: '' },
  });
  expect(again.body.what).toMatch(/has not typed/);
});

test('what was said is read by conversations, found by its words, and goes on record by how much it was', async () => {
  const id = await opened();
  const all = await read(id);
  expect(all).toMatchObject({ isCut: false, unreadable: 0 });
  expect(all.classes.map((one) => one.class)).toEqual(
    expect.arrayContaining(['contacts', 'messages', 'photographs', 'applications']),
  );
  const { rows, total } = await conversationsOf(id);
  expect(total).toBe(all.conversations);
  expect(rows.length).toBe(total);
  // By the names of the customer’s own contacts.
  expect(
    rows.every(({ people }) => people.length > 0 && !people.some((name) => name.startsWith('+'))),
  ).toBe(true);
  const [first] = rows;
  if (!first) throw new Error('there is no conversation');
  expect((await conversationsOf(id, first.people[0])).rows).toContainEqual(first);
  const { rows: said, months } = await messagesOf(id, first.id);
  expect(said.length).toBe(Math.min(200, first.messages));
  expect(said.map(({ at }) => at)).toEqual(said.map(({ at }) => at).toSorted());
  expect(months.reduce((sum, { count }) => sum + count, 0)).toBe(first.messages);

  const sought = said.find(({ text }) => text.split(' ').length > 3);
  if (!sought) throw new Error('nothing was said');
  const search = (text: string) =>
    api.post<Rows<LookHit>>(`/api/look-ins/${id}/search`, { text, within: null });
  const found = (await search(sought.text.toUpperCase())).body;
  expect(found.rows).toContainEqual(
    expect.objectContaining({ conversation: first.id, index: sought.index, text: sought.text }),
  );
  expect((await search('nothing that anybody ever wrote')).body).toEqual({ rows: [], total: 0 });

  const files = (
    await api.post<Rows<LookFile>>(`/api/look-ins/${id}/files`, {
      ...{ class: 'photographs', text: '', from: 0 },
    })
  ).body;
  const contacts = await shelf(id, 'contacts');
  expect(contacts.total).toBe(all.shelves.find((one) => one.shelf === 'contacts')?.rows);
  const [ada] = contacts.rows;
  // However the number is written.
  const digits = ada?.numbers[0]?.replace(/\D/g, '').slice(2).split('').join(' ') ?? '';
  expect((await shelf(id, 'contacts', digits)).rows).toContainEqual(ada);
  const calls = await shelf(id, 'calls');
  expect(calls.rows.map(({ at }) => at)).toEqual(
    calls.rows
      .map(({ at }) => at)
      .toSorted()
      .toReversed(),
  );
  const whose = calls.rows[0]?.name ?? '';
  expect(whose).not.toMatch(/^\+/);
  expect((await shelf(id, 'calls', whose.toUpperCase())).rows[0]?.name).toBe(whose);

  const secret = { class: 'saved-passwords', text: '', from: 0 };
  const counted = await api.post<Rows<LookFile>>(`/api/look-ins/${id}/files`, secret);
  expect(counted.body.rows).toEqual([]);
  expect(counted.body.total).toBeGreaterThan(0);
  const picture = files.rows.find(({ isPicture }) => isPicture);
  const drawn = await api.raw(
    lookPicturePath(id, { of: 'files', number: picture?.item ?? -1 }, 200),
  );
  expect(drawn.headers.get('content-type')).toBe('image/webp');
  expect(drawn.headers.get('cache-control')).toBe('no-store');
  const bytes = Buffer.from(await drawn.arrayBuffer());
  expect(bytes.subarray(8, 12).toString()).toBe('WEBP');
  const none = await api.raw(lookPicturePath(id, { of: 'files', number: 1e6 }, 200));
  expect(none.status).toBe(404);

  // Nothing of it lies anywhere but on the device, sealed or not at all.
  const word = sought.text;
  const holds = (place: string) => () =>
    execFileSync('grep', ['-rqF', word, join(product.data, place)]);
  expect(holds('bench')).not.toThrow();
  const places = readdirSync(product.data).filter((name) => name !== 'bench');
  for (const place of places) {
    expect(holds(place), place).toThrow();
  }
  expect((await db.query('select * from audit where what like ?', [`%${word}%`]))[0]).toEqual([]);

  expect((await api.send('DELETE', `/api/look-ins/${id}`)).status).toBe(200);
  expect((await amounts(id)).body.code).toBe('look-in-over');
  const [begun, ended] = (await lines()).slice(-2);
  expect(begun).toContain(asked.reason);
  expect(ended).toMatch(/closed by whoever looked/);
  expect(ended).toMatch(
    /[1-9]\d+ shown, 1 opened by themselves, 0 taken out; of contacts, messages, call log, photographs\.$/,
  );
});

test('everything is read as what it is: in time, by place, played, in letters; and found by one search', async () => {
  const id = await opened();
  await eventually('photographs to be dated', async () => {
    const { body } = await amounts(id);
    return body.isAll && !body.isDating;
  });
  const { shelves } = (await amounts(id)).body;
  for (const one of shelves) expect(one.rows, one.shelf).toBeGreaterThan(0);

  const photographs = await shelf(id, 'photographs');
  for (const { path, at, isAtSaid, camera, place } of photographs.rows) {
    expect(path).toContain(at.slice(0, 10));
    expect([isAtSaid, camera]).toEqual([true, 'Arc 7']);
    // All of them lie on open water.
    expect(place?.latitude).toBeCloseTo(47.3, 0);
    expect(place?.longitude).toBeCloseTo(-25.2, 0);
  }
  const month = photographs.rows[0]?.at.slice(0, 7) ?? '';
  expect((await shelf(id, 'photographs', month)).total).toBe(photographs.months[0]?.count);

  const calendar = await shelf(id, 'calendar');
  expect(calendar.rows.some(({ isRepeated }) => isRepeated)).toBe(true);
  expect(calendar.rows.map(({ at }) => at)).toEqual(calendar.rows.map(({ at }) => at).toSorted());
  const [health] = (await shelf(id, 'health', 'steps')).rows;
  expect(health).toMatchObject({ what: 'steps', unit: '' });
  expect(health?.days.length).toBeGreaterThan(400);
  expect((await shelf(id, 'screens')).rows[0]?.dock).toContain('calls');

  // Of what is drawn the first is the newest, and there is something of every kind.
  const { body: drawn } = await api.post<LookSamples>(`/api/look-ins/${id}/samples`);
  expect(drawn.photographs[0]?.item).toBe(photographs.rows[0]?.item);
  expect(new Set(drawn.photographs.map(({ item }) => item)).size).toBe(drawn.photographs.length);
  for (const some of Object.values(drawn)) expect(some?.length).toBeGreaterThan(0);
  expect(drawn.said[0]?.last.length).toBeGreaterThan(0);

  const letter = (await shelf(id, 'documents')).rows.find(({ shows }) => shows === 'text');
  const text = await api.post<{ text: string }>(`/api/look-ins/${id}/text`, { item: letter?.item });
  expect(text.body.text.length).toBe(letter?.bytes);
  const word = text.body.text.split(' ').slice(0, 4).join(' ');
  const found = await api.post<AnyShelfPart[]>(`/api/look-ins/${id}/shelves`, {
    text: 'harrowmere',
  });
  expect(found.body.map((part) => part.shelf)).toEqual(
    expect.arrayContaining(['calendar', 'notes']),
  );
  expect(word).not.toBe('');

  // A video comes in parts, as a player asks for them, and together they are the whole.
  const [video] = (await shelf(id, 'videos')).rows;
  const part = (range: string) =>
    api.raw(lookMediaPath(id, video?.item ?? -1), { headers: { range } });
  const whole = await api.raw(lookMediaPath(id, video?.item ?? -1));
  expect(whole.headers.get('content-type')).toBe('video/webm');
  expect(whole.headers.get('cache-control')).toBe('no-store');
  const bytes = Buffer.from(await whole.arrayBuffer());
  expect(bytes.length).toBe(video?.bytes);
  const middle = await part('bytes=1000-1999');
  expect([middle.status, middle.headers.get('content-range')]).toEqual([
    ...[206, `bytes 1000-1999/${bytes.length}`],
  ]);
  expect(Buffer.from(await middle.arrayBuffer())).toEqual(bytes.subarray(1000, 2000));
  expect((await part(`bytes=${bytes.length}-`)).status).toBe(416);
  expect((await api.raw(lookMediaPath(id, letter?.item ?? -1))).status).toBe(404);
  expect(
    (await api.raw(lookPicturePath(id, { of: 'files', number: letter?.item ?? -1 }, 200))).status,
  ).toBe(404);

  // A picture on a card is drawn anew; pages of a document go as bytes, to be drawn page by page.
  const cards = (await shelf(id, 'contacts')).rows;
  const pictureOf = async (card: number | undefined) => {
    const answer = await api.raw(lookPicturePath(id, { of: 'cards', number: card ?? -1 }, 100));
    return [answer.status, answer.headers.get('content-type')?.split(';')[0]];
  };
  expect(await pictureOf(cards.find(({ hasPicture }) => hasPicture)?.card)).toEqual([
    ...[200, 'image/webp'],
  ]);
  expect(await pictureOf(cards.find(({ hasPicture }) => !hasPicture)?.card)).toEqual([
    ...[404, 'application/json'],
  ]);
  const pages = (await shelf(id, 'documents')).rows.find(({ shows }) => shows === 'pages');
  const given = await api.raw(lookMediaPath(id, pages?.item ?? -1));
  expect(given.headers.get('content-type')).toBe('application/octet-stream');
  expect(
    Buffer.from(await given.arrayBuffer())
      .subarray(0, 5)
      .toString(),
  ).toBe('%PDF-');
  await api.send('DELETE', `/api/look-ins/${id}`);
  expect((await part('bytes=0-')).status).toBe(409);
});

test('“is it all there?”: a backup beside a later one, and beside the device as it is now', async () => {
  const contents = join(product.data, 'bench/devices', OWNED, 'contents');
  const [note = '', other = ''] = readdirSync(join(contents, 'notes')).sort();
  const [photograph = ''] = readdirSync(join(contents, 'photographs'), { recursive: true })
    .map(String)
    .filter((name) => name.endsWith('.jpg'));
  writeFileSync(join(contents, 'notes', note), '# Changed since\n');
  rmSync(join(contents, 'notes', other));
  renameSync(
    join(contents, 'photographs', photograph),
    join(contents, 'photographs', 'called-otherwise.jpg'),
  );
  await product.press(OWNED, { do: 'write-note', text: 'a note that came later' });

  const id = await opened();
  await read(id);
  const { body: device } = await api.get<{
    berths: { device: { id: string; definition?: string } | null }[];
  }>('/api/bench');
  const deviceId = device.berths.find((berth) => berth.device)?.device?.id;
  const compare = async (compared: object) => {
    const begun = await api.post<Comparison & { what?: string }>(`/api/look-ins/${id}/comparison`, {
      with: compared,
    });
    expect(begun.body.what ?? begun.status).toBe(200);
    return eventually('the comparison', async () => {
      const { body } = await api.get<Comparison>(`/api/look-ins/${id}/comparison`);
      expect(body.trouble).toBeNull();
      return body.isDone && body;
    });
  };
  const differences = async (change: string | null) =>
    (
      await api.post<Rows<LookDifference>>(`/api/look-ins/${id}/comparison/items`, {
        ...{ class: null, change, from: 0 },
      })
    ).body;
  const now = await compare({ deviceId });
  expect(now.sentence).toMatch(
    /^1 of \d+ items is not on the device; 1 was changed, 1 is called otherwise, 1 was added\.$/,
  );
  expect((await differences('removed')).rows).toMatchObject([
    { before: `notes/${other}`, after: null },
  ]);
  expect((await differences('renamed')).rows).toMatchObject([
    { before: `photographs/${photograph}`, after: 'photographs/called-otherwise.jpg' },
  ]);
  const notes = now.classes.find((one) => one.class === 'notes')?.counts;
  expect([notes?.same.items, notes?.changed.items, notes?.added.items]).toEqual([1, 1, 1]);
  expect((await differences(null)).total).toBe(4);
  const secrets = await api.post<Rows<LookDifference>>(`/api/look-ins/${id}/comparison/items`, {
    ...{ class: 'saved-passwords', change: 'same', from: 0 },
  });
  expect(secrets.body.total).toBeGreaterThan(0);
  expect(secrets.body.rows).toEqual([]);

  // A later backup, taken while somebody looks, says the same of it.
  const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
  const later = await api.post(`/api/tickets/${ticket}/backups`, {
    ...{ mode: 'everything', encrypted: true, accepted: [], rackId: archive.copies[0]?.rackId },
    ...{ archiveId, password: PASSWORD, passwordHolder: 'customer', reminder: '', choice: {} },
    fromDesk: false,
  });
  const reading = setInterval(() => void amounts(id), IDLE_MS / 4);
  const ended = await api.ended(later.body.id).finally(() => clearInterval(reading));
  expect(ended.state).toBe('done');
  const then = await compare({ backupId: ended.backupId });
  expect(then.sentence).toBe(now.sentence?.replace('on the device', 'in the later backup'));

  // Which of them goes back: nothing is proven since the archive changed, and nobody overlooks that.
  const { body: beside } = await api.get<RestoreChoices>(`/api/backups/${ended.backupId}/beside`);
  const [newest, earlier] = [ended.backupId, archive.backups[0]?.id];
  expect(beside.backups.map(({ id: one, troubles }) => [one, troubles])).toEqual([
    ...[
      [newest, ['unproven']],
      [earlier, ['unproven']],
    ],
  ]);
  expect(beside.passedOver.map((one) => one.id)).toEqual([newest, earlier]);
  expect(beside.proposed).toBeNull();
  await api.send('DELETE', `/api/look-ins/${id}`);
});

test('beside the newest backup of another device: by contents, under another key; agreed to and on record there too', async () => {
  const contents = join(product.data, 'bench/devices', OWNED, 'contents');
  const folder = mkdtempSync(join(product.data, 'bench/other-'));
  const pictures = readdirSync(join(contents, 'photographs'), { recursive: true })
    .map(String)
    .filter((name) => name.endsWith('.jpg'))
    .sort();
  mkdirSync(join(folder, 'photographs'));
  for (const [n, name] of pictures.entries())
    copyFileSync(
      join(contents, 'photographs', name),
      join(folder, 'photographs', `moved-${n}.jpg`),
    );
  mkdirSync(join(folder, 'notes'));
  writeFileSync(join(folder, 'notes/new.md'), 'Only on the new one.');
  const { facts } = await product.plugFolder(folder, 2);
  const other = await api.provenBackup(facts.id);
  const id = await opened();
  await read(id);
  const ask = (password: string) =>
    api.post<Comparison & { what?: string; code?: string }>(`/api/look-ins/${id}/comparison`, {
      with: { archiveId: other.archiveId, password },
    });
  expect((await ask(PASSWORD)).body.code).toBe('not-agreed');
  await api.post(`/api/tickets/${other.ticket}/agreements`, {
    ...{ kind: 'look-in', given: true, days: null },
  });
  expect((await ask('another password')).body.code).toBe('wrong-password');
  expect((await ask(PASSWORD)).status).toBe(200);
  const done = await eventually('the comparison', async () => {
    const { body } = await api.get<Comparison>(`/api/look-ins/${id}/comparison`);
    expect(body.trouble).toBeNull();
    return body.isDone && body;
  });
  expect(done.sentence).toMatch(/in the other backup/);
  const photographs = done.classes.find((one) => one.class === 'photographs')?.counts;
  const kept = (photographs?.renamed.items ?? 0) + (photographs?.same.items ?? 0);
  // The earlier backup may hold one that was called otherwise since.
  expect(kept).toBeGreaterThanOrEqual(pictures.length - 1);
  expect(done.classes.find((one) => one.class === 'notes')?.counts.added.items).toBe(1);
  const [[line]] = (await db.query(
    "select count(*) as noted from audit where action = 'look-compared'",
  )) as [[{ noted: number }], unknown];
  expect(line.noted).toBeGreaterThan(0);
  await api.send('DELETE', `/api/look-ins/${id}`);
});

test('nobody else reads in it; everybody sees that it is open', async () => {
  const id = await opened();
  const joss = await Api.signedIn(product, JOSS);
  expect((await amounts(id, joss)).body.code).toBe('look-in-over');
  expect((await joss.send('DELETE', `/api/look-ins/${id}`)).status).toBe(409);
  const [seen] = (await joss.get<LookIn[]>('/api/look-ins')).body;
  expect(seen).toMatchObject({ id, isOwn: false, ticketNumber: ticket });
  expect((await api.get<LookIn[]>('/api/look-ins')).body[0]?.isOwn).toBe(true);
  // Asked for again, it is the one that is open; with another password it is not.
  expect(await opened()).toBe(id);
  expect((await begin({ password: 'another one' })).body.code).toBe('wrong-password');
  await api.send('DELETE', `/api/look-ins/${id}`);
});

test('it closes itself when nobody reads on, and stays open for who does', async () => {
  const id = await opened();
  const until = Date.now() + IDLE_MS * 1.5;
  let read: number;
  do {
    read = Date.now();
    expect((await amounts(id)).status).toBe(200);
    await new Promise((resolve) => setTimeout(resolve, 500));
  } while (read < until);
  await eventually('nobody to look any more', async () => {
    return (await api.get<LookIn[]>('/api/look-ins')).body.length === 0;
  });
  expect(Date.now() - read).toBeGreaterThan(IDLE_MS * 0.95);
  expect((await amounts(id)).body.code).toBe('look-in-over');
  await onRecord(/nobody read on/);
});

test('it closes with the customer’s word, with the sign-in, with the process, and with the ticket', async () => {
  const first = await opened();
  await agree(false);
  await over(first);
  await onRecord(/took the agreement back/);
  await agree(true);

  const wren = await Api.signedIn(product);
  const second = (await begin({}, wren)).body.id;
  expect((await amounts(second, wren)).status).toBe(200);
  await wren.send('DELETE', '/api/session');
  await over(second);
  await onRecord(/sign-in of whoever looked/);

  const third = await opened();
  process.kill(product.workPid() ?? 0, 'SIGKILL');
  await onRecord(/the program ended/);
  await over(third);

  const fourth = await opened();
  for (const step of ['backup', 'prove'])
    await api.post(`/api/tickets/${ticket}/steps/${step}`, { state: 'skipped', reason: 'so' });
  await db.query('update tickets set closed_at = now(3) where number = ?', [ticket]);
  await over(fourth);
  await onRecord(/closed with its ticket/);
  expect((await begin()).body.code).toBe('not-agreed');
  const log = readFileSync(join(product.data, 'logs/work.log'), 'utf8');
  expect(log).not.toContain(PASSWORD);
});
