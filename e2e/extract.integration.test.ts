import { execFileSync } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import {
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import {
  operationTakenPath,
  type Rack,
  type RegularWork,
  type Ticket,
} from '@bright-cellar/contract';
import { openShop } from './open-shop.js';
import { resultOf } from './api.js';
import { eventually, MARL, openMarl, QUILLON } from './product.js';

const { product, api } = await openShop({ only: [MARL, QUILLON], owner: 'waits' });

const ticketNow = async (number: string) => (await api.get<Ticket>(`/api/tickets/${number}`)).body;

describe('only a part, taken out', () => {
  const records = {
    kind: 'records',
    set: 'messages',
    format: 'jsonl',
    dates: 'iso',
    named: true,
    media: true,
    append: true,
  };
  const place = (ticket: string) => join(product.data, 'racks', 'alder', 'extracts', ticket);
  async function extract(ticket: string, what: object) {
    const { body: racks } = await api.get<Rack[]>('/api/racks');
    return api.post(`/api/tickets/${ticket}/extracts`, { rackId: racks[0]?.id, what });
  }
  let ticket: string;

  test('messages with names, in order, their pictures beside; again it adds only what is new', async () => {
    await product.press(MARL, { do: 'offer-update', update: null });
    await eventually('an open phone', async () => {
      await openMarl(product).catch(() => undefined);
      const { body } = await api.get<{
        berths: { device: { id: string; contentRevision: string | null } | null }[];
      }>('/api/bench');
      return body.berths.find((b) => b.device?.id === MARL)?.device?.contentRevision;
    });
    ticket = await api.openTicket(MARL);
    expect((await extract(ticket, records)).body.code).toBe('not-agreed');
    await api.agree(ticket, 'look-in');
    const ended = await api.ended((await extract(ticket, records)).body.id);
    expect(ended).toMatchObject({ state: 'done', result: { failed: [] } });
    const file = join(place(ticket), resultOf(ended, 'extract').wrote);
    const lines = readFileSync(file, 'utf8')
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as { at: string; from: string });
    expect(lines).toHaveLength(ended.result?.items ?? 0);
    expect(lines.map((l) => l.at)).toEqual(lines.map((l) => l.at).sort());
    expect(lines.some((l) => /^[A-Z][a-z]+ [A-Z]/.test(l.from))).toBe(true);
    const again = await api.ended((await extract(ticket, records)).body.id);
    expect(again.result).toMatchObject({ newItems: 0, items: ended.result?.items });
    expect(readFileSync(file, 'utf8').trim().split('\n')).toHaveLength(lines.length);

    // Only some days of it, as days are in UTC where that is the clock.
    const since = lines[Math.floor(lines.length / 2)]?.at.slice(0, 10) ?? '';
    const some = { ...records, append: false, clock: 'utc', since, until: since, media: false };
    const bounded = await api.ended((await extract(ticket, some)).body.id);
    const told = readFileSync(join(place(ticket), resultOf(bounded, 'extract').wrote), 'utf8');
    const days = [...told.matchAll(/"at":"(\d{4}-\d\d-\d\d)/g)].map(([, day]) => day);
    expect(days.length).toBe(bounded.result?.items);
    expect(new Set(days)).toEqual(new Set([since]));
    expect((await extract(ticket, { ...some, until: 'tomorrow' })).status).toBe(422);
  });

  test('as a page it is conversations with names and pictures in their place; it is fetched, on record', async () => {
    const page = { ...records, format: 'html', dates: 'words' };
    const ended = await api.ended((await extract(ticket, page)).body.id);
    expect(ended).toMatchObject({ state: 'done', result: { failed: [] } });
    const { wrote } = resultOf(ended, 'extract');
    const html = readFileSync(join(place(ticket), wrote), 'utf8');
    const names = [...html.matchAll(/<h2>([^<]+)<\/h2>/g)].map(([, name]) => name);
    expect(names.length).toBeGreaterThan(1);
    expect(names.join()).not.toMatch(/thread/);
    const [, picture = ''] = /<img src="([^"]+)"/.exec(html) ?? [];
    expect(statSync(join(place(ticket), decodeURIComponent(picture))).size).toBeGreaterThan(100);
    const fetched = await api.raw(operationTakenPath(ended.id));
    expect(fetched.status).toBe(200);
    const zip = join(product.data, 'fetched.zip');
    writeFileSync(zip, Buffer.from(await fetched.arrayBuffer()));
    const listed = execFileSync('python3', ['-m', 'zipfile', '-l', zip], { encoding: 'utf8' });
    expect(listed).toContain(wrote);
    expect(listed).toContain(decodeURIComponent(picture));
    const { body: record } = await api.get<{ rows: { action: string }[] }>(
      `/api/audit?ticket=${ticket}`,
    );
    expect(record.rows.map(({ action }) => action)).toContain('extract-fetched');
    rmSync(zip);
    const file = join(place(ticket), wrote);
    renameSync(file, `${file}.away`);
    expect((await api.raw(operationTakenPath(ended.id))).status).toBe(404);
    renameSync(`${file}.away`, file);
    expect((await api.raw(operationTakenPath(randomUUID()))).status).toBe(404);
  });

  test('the chats of an application by itself, and of none that keeps no chats', async () => {
    const { body } = await api.get<{ id: string; chats: boolean }[]>(
      `/api/tickets/${ticket}/applications`,
    );
    const chatting = body.filter((a) => a.chats).map((a) => a.id);
    expect(chatting).toEqual(expect.arrayContaining(['tansy', 'corbel']));
    expect(chatting).not.toContain('pocket-garden');
    await product.press(MARL, { do: 'confirm-number', application: 'tansy' });
    const chats = { ...records, set: 'chats/tansy', media: false };
    const ended = await api.ended((await extract(ticket, chats)).body.id);
    expect(ended).toMatchObject({ state: 'done', result: { failed: [] } });
    expect(ended.result?.items).toBeGreaterThan(0);
    expect(resultOf(ended, 'extract').wrote).toBe(`${ticket}_chats-tansy.jsonl`);
    const none = { ...chats, set: 'chats/pocket-garden' };
    const nothing = await api.ended((await extract(ticket, none)).body.id);
    expect(nothing).toMatchObject({ state: 'done', result: { items: 0 } });
    expect((await extract(ticket, { ...chats, set: 'chats/../x' })).status).toBe(422);
  });

  test('a file that cannot be read is not taken for a new one, and stays as it is', async () => {
    const inTheWay = join(place(ticket), `${ticket}_messages.csv`);
    mkdirSync(inTheWay);
    const ended = await api.ended((await extract(ticket, { ...records, format: 'csv' })).body.id);
    expect(ended).toMatchObject({ state: 'failed', problem: { safe: 'It was not changed.' } });
    rmdirSync(inTheWay);
    writeFileSync(inTheWay, 'somebody’s own list');
    const refused = await api.ended((await extract(ticket, { ...records, format: 'csv' })).body.id);
    expect(refused.problem?.what).toMatch(/is not one of these/);
    expect(readFileSync(inTheWay, 'utf8')).toBe('somebody’s own list');
    expect(readdirSync(place(ticket)).filter((name) => name.endsWith('.new'))).toEqual([]);
  });

  test('on a schedule: by itself, without a password, whenever something changed; it rests after a failure', async () => {
    const { body: racks } = await api.get<Rack[]>('/api/racks');
    const plan = (what: object) => ({
      schedule: {
        rule: 'on-connect',
        weekday: 1,
        at: 0,
        quiet: null,
        catchUp: true,
        overNetwork: true,
      },
      wholeCustomer: false,
      extract: { rackId: racks[0]?.id, what },
    });
    const schedule = (number: string, what: object) =>
      api.post<RegularWork[]>(`/api/tickets/${number}/schedule`, plan(what));
    const handset = await api.openTicket(QUILLON);
    expect((await schedule(handset, records)).body).toMatchObject({ code: 'not-agreed' });

    const before = (await ticketNow(ticket)).operations.length;
    await product.press(MARL, { do: 'write-note', text: 'something new' });
    await eventually('the schedule to start it', async () => {
      await schedule(ticket, { ...records, format: 'xml' });
      return (await ticketNow(ticket)).operations.length > before;
    });
    const [taken] = (await ticketNow(ticket)).operations;
    expect(taken).toMatchObject({ kind: 'extract' });
    expect(await api.ended(taken?.id ?? '')).toMatchObject({ state: 'done', problem: null });
    // Nothing changed since, so nothing more is taken; one set has one schedule.
    const listed = (await schedule(ticket, { ...records, format: 'xml' })).body.filter(
      (r) => r.ticketNumber === ticket,
    );
    expect(listed).toHaveLength(1);
    expect(listed[0]).toMatchObject({
      armedUntil: null,
      waitsFor: null,
      extract: { what: { format: 'xml' } },
    });
    expect((await ticketNow(ticket)).operations).toHaveLength(before + 1);

    // What fails once would fail again at once: it says so, and rests.
    mkdirSync(join(place(ticket), `${ticket}_calls.csv`));
    await schedule(ticket, { ...records, set: 'calls', format: 'csv' });
    const [failing] = (await ticketNow(ticket)).operations;
    expect(await api.ended(failing?.id ?? '')).toMatchObject({ state: 'failed' });
    const after = (await schedule(ticket, { ...records, set: 'calls', format: 'csv' })).body;
    expect(after.find((r) => r.extract?.what.set === 'calls')?.waitsFor).toMatch(/last try failed/);
    expect((await ticketNow(ticket)).operations).toHaveLength(before + 2);
    for (const { id } of after) await api.send('DELETE', `/api/schedules/${id}`);
  });

  test('single applications as packages that any ZIP program opens, scores included', async () => {
    const what = { kind: 'applications', applications: ['pocket-garden', 'crossword'] };
    const ended = await api.ended((await extract(ticket, what)).body.id);
    expect(ended.result).toMatchObject({ items: 2, failed: [] });
    const path = join(place(ticket), 'pocket-garden.application.zip');
    const listed = execFileSync('python3', ['-m', 'zipfile', '-l', path]).toString();
    expect(listed).toContain('data/scores.json');
    const read = (name: string) =>
      execFileSync('python3', [
        '-c',
        `import zipfile,sys;sys.stdout.buffer.write(zipfile.ZipFile(sys.argv[1]).read(sys.argv[2]))`,
        path,
        name,
      ]);
    const manifest = JSON.parse(read('manifest.json').toString()) as {
      files: { path: string; sha512: string }[];
    };
    for (const { path: inside, sha512 } of manifest.files) {
      expect(
        createHash('sha512')
          .update(read(`data/${inside}`))
          .digest('hex'),
      ).toBe(sha512);
    }
  });

  test('an application that cannot be read whole gives no package, and an earlier one stays', async () => {
    const package_ = join(place(ticket), 'pocket-garden.application.zip');
    const before = readFileSync(package_);
    await product.press(MARL, { do: 'faults', faults: { unreadableEntries: 100_000 } });
    const applications = ['pocket-garden', 'crossword'];
    const ended = await api.ended(
      (await extract(ticket, { kind: 'applications', applications })).body.id,
    );
    expect(ended.problem).toBeNull();
    expect(ended.result).toMatchObject({
      items: 0,
      wrote: '',
      failed: [{ class: 'applications', reason: 'the device could not read it', count: 2 }],
    });
    expect(readFileSync(package_).equals(before)).toBe(true);
    expect(readdirSync(place(ticket)).filter((name) => name.endsWith('.new'))).toEqual([]);
    await product.press(MARL, { do: 'faults', faults: { unreadableEntries: 0 } });
  });

  test('the texts of an old handset, in whatever encoding it keeps them', async () => {
    const handset = await api.openTicket(QUILLON);
    await api.agree(handset, 'look-in');
    const texts = await api.ended((await extract(handset, { ...records, format: 'csv' })).body.id);
    expect(texts.result?.items).toBeGreaterThan(5);
    expect(
      readFileSync(join(place(handset), resultOf(texts, 'extract').wrote), 'utf8'),
    ).not.toContain('\ufffd');
  });
});
