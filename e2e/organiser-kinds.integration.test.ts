import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, request as connect } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { PartnerTold, RegularWork } from '@bright-cellar/contract';
import type { RowDataPacket } from 'mysql2';
import { RADICALE_PASSWORD } from '@bright-cellar/rack-stand-ins';
import { beforeAll, describe, expect, test } from 'vitest';
import { eventually } from './product.js';
import { fileCalled, namesOf, openOrganiserShop, sums, twoSides } from './organiser-sides.js';

/** Tasks and memos of a keyboard handset, kept in step with Radicale and with files. */

const sides = twoSides(await openOrganiserShop('quillon-q40'), 'quillon-q40', '8822');
const { api, radicale, onDevice, onServer, both, synced, unplugged } = sides;
const read = (file: string) => readFileSync(file, 'latin1');
/** As its owner would, on a handset or in a program of theirs. */
function rewrite(file: string, change: (text: string) => string): void {
  writeFileSync(file, change(read(file)), 'latin1');
}

beforeAll(async () => {
  await api.agree(sides.ticket, 'look-in');
  sides.partner = (await sides.opened()).body;
});

describe('tasks', () => {
  const kinds = ['tasks'] as const;
  const done = (file: string) => /^STATUS:COMPLETED\r?$/m.test(read(file));

  test('come onto the server with when they are due and whether they are done, and a second time changes nothing', async () => {
    const { before, after } = await both({ kinds });
    expect(before.kinds).toMatchObject([
      { kind: 'tasks', partner: { add: onDevice('tasks').length }, device: { add: 0 } },
    ]);
    expect(onDevice('tasks').length).toBeGreaterThan(2);
    expect(after.failed).toEqual([]);
    expect(namesOf('tasks', onServer('tasks'))).toEqual(namesOf('tasks', onDevice('tasks')));
    expect(onServer('tasks').filter(done).length).toBe(onDevice('tasks').filter(done).length);
    expect(sums(await synced({ kinds }))).toBe(0);
  });

  test('one that is done on one side is done on the other, one that is new is new there, one that is gone goes', async () => {
    const open = onDevice('tasks').filter((file) => !done(file));
    const [first = '', second = ''] = open.map((file) => namesOf('tasks', [file])[0] ?? '');
    expect(first).not.toBe(second);
    rewrite(fileCalled('tasks', onDevice('tasks'), first), (text) =>
      text.replace('STATUS:NEEDS ACTION', 'STATUS:COMPLETED'),
    );
    rewrite(fileCalled('tasks', onServer('tasks'), second), (text) =>
      text.replace(/^SUMMARY:.*$/m, 'SUMMARY:Something else\r\nX-OWN:kept'),
    );
    rmSync(onServer('tasks').find(done) ?? '');
    writeFileSync(
      join(radicale.folderOf('jobs'), 'new.ics'),
      'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//somebody//EN\r\nBEGIN:VTODO\r\nUID:new\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Lamp oil\r\nDUE;VALUE=DATE:20261224\r\nEND:VTODO\r\nEND:VCALENDAR\r\n',
    );
    await unplugged();
    const { after } = await both({ kinds });
    expect(after).toMatchObject({ failed: [], wrote: true });
    expect(done(fileCalled('tasks', onServer('tasks'), first))).toBe(true);
    expect(read(fileCalled('tasks', onServer('tasks'), 'Something else'))).toContain('X-OWN:kept');
    expect(read(fileCalled('tasks', onDevice('tasks'), 'Lamp oil'))).toContain(
      'DUE:20261224T000000',
    );
    expect(namesOf('tasks', onDevice('tasks'))).toEqual(namesOf('tasks', onServer('tasks')));
    // A handset knows no whole days: that is no change of its owner’s.
    expect(sums(await synced({ kinds }))).toBe(0);
    expect(read(fileCalled('tasks', onServer('tasks'), 'Lamp oil'))).toContain(
      'DUE;VALUE=DATE:20261224',
    );
  });
});

describe('memos', () => {
  const kinds = ['notes'] as const;

  test('go both ways, word for word as far as a handset has letters for them', async () => {
    writeFileSync(
      join(radicale.folderOf('memos'), 'key.ics'),
      'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//somebody//EN\r\nBEGIN:VJOURNAL\r\nUID:key\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Key\r\nDESCRIPTION:under the third stone \u2192\r\nX-OWN:kept\r\nEND:VJOURNAL\r\nEND:VCALENDAR\r\n',
    );
    const before = onDevice('notes').length;
    const { after } = await both({ kinds });
    expect(after.failed).toEqual([]);
    expect(onDevice('notes')).toHaveLength(before + 1);
    expect(onServer('notes')).toHaveLength(before + 1);
    const there = fileCalled('notes', onDevice('notes'), 'Key');
    expect(read(there)).toBe('Key\n\nunder the third stone ?');
    expect(sums(await synced({ kinds }))).toBe(0);
    // What the handset has no letter for stays as it was there, until somebody writes it anew.
    rewrite(there, (text) => `${text}\nAna has another`);
    await unplugged();
    await both({ kinds });
    const journal = readFileSync(join(radicale.folderOf('memos'), 'key.ics'), 'utf8');
    expect(journal).toContain('Ana has another');
    expect(journal).toContain('X-OWN:kept');
    expect(sums(await synced({ kinds }))).toBe(0);
  });
});

test('parts that each side keeps to itself are not read, written or remembered, until they are wanted', async () => {
  const kinds = ['contacts'] as const;
  const how = { kinds, without: ['note' as const] };
  await both(how);
  const cards = { here: onDevice('contacts'), there: onServer('contacts') };
  const notes = (files: string[]) => files.filter((file) => /^NOTE/m.test(read(file))).length;
  expect(notes(cards.here)).toBe(cards.here.length);
  expect(notes(cards.there)).toBe(0);
  const [name = ''] = namesOf('contacts', cards.there);
  rewrite(fileCalled('contacts', cards.there, name), (text) =>
    text.replace('END:VCARD', 'NOTE:Weir\r\nORG:Mill\r\nEND:VCARD'),
  );
  const { before } = await both(how);
  expect(before.kinds[0]).toMatchObject({ device: { change: 1 }, open: 0 });
  const here = read(fileCalled('contacts', onDevice('contacts'), name));
  expect(here).toContain('Mill');
  expect(here).not.toContain('Weir');
  expect(sums(await synced(how))).toBe(0);
  // From now on the note is kept in step, too: of one person it differs.
  const all = await synced({ kinds });
  expect(all.kinds[0]).toMatchObject({
    open: 1,
    partner: { change: cards.there.length - 1 },
    device: { add: 0, change: 0, remove: 0 },
  });
});

test('a name longer than the handset keeps is shortened there, stays whole in their books, and is no change the next time', async () => {
  const name = 'Theodora Wilhelmina Quayle of Upper Fernhill';
  const card = join(radicale.folderOf('people'), 'long.vcf');
  const lines = ['BEGIN:VCARD', 'VERSION:3.0', 'UID:long', `FN:${name}`, 'N:Quayle;Theodora;;;'];
  writeFileSync(card, [...lines, 'TEL:+44 7700 900888', 'END:VCARD', ''].join('\r\n'));
  sides.partner = (await sides.opened()).body;
  const kinds = ['contacts'] as const;
  const { before, after } = await both({ kinds });
  expect(after.failed).toEqual([]);
  expect(before.kinds[0]?.aside).toEqual({ device: 1, partner: 0 });
  expect(namesOf('contacts', onDevice('contacts'))).toContain(name.slice(0, 32));
  expect(namesOf('contacts', onServer('contacts'))).toContain(name);
  expect(sums(await synced({ kinds }))).toBe(0);
  rmSync(card);
  await both({ kinds });
  expect(namesOf('contacts', onDevice('contacts'))).not.toContain(name.slice(0, 32));
});

test('a calendar file of several kinds is kept in step as each of them, and saved as each', async () => {
  const text =
    'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//somebody//EN\r\n' +
    'BEGIN:VEVENT\r\nUID:boat\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:20261201T090000Z\r\nSUMMARY:Boat\r\nEND:VEVENT\r\n' +
    'BEGIN:VTODO\r\nUID:rope\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Rope\r\nEND:VTODO\r\n' +
    'BEGIN:VJOURNAL\r\nUID:log\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Log\r\nEND:VJOURNAL\r\nEND:VCALENDAR\r\n';
  const path = `/api/tickets/${sides.ticket}/organiser-files/quillon-q40`;
  sides.partner = (await api.sendText<PartnerTold>(path, text)).body;
  expect(sides.partner.books.map(({ kind }) => kind)).toEqual([
    ...['contacts', 'events', 'tasks', 'notes'],
  ]);
  const kinds = ['events', 'tasks', 'notes'] as const;
  const { after } = await both({ kinds });
  expect(after.failed).toEqual([]);
  const names = { events: 'Boat', tasks: 'Rope', notes: 'Log' };
  for (const kind of kinds) {
    expect(namesOf(kind, onDevice(kind))).toContain(names[kind]);
    const saved = await api.raw(`/api/partners/${sides.partner.id}/files/${kind}`);
    expect(saved.headers.get('content-disposition')).toMatch(/(?:calendar|tasks|memos)\.ics/);
    const words = await saved.text();
    expect(words).toContain(`SUMMARY:${names[kind]}`);
    for (const other of Object.values(names).filter((name) => name !== names[kind]))
      expect(words).not.toContain(`SUMMARY:${other}`);
  }
  expect(sums(await synced({ kinds }))).toBe(0);
});

test('a table of contacts is kept in step, and saved as that table again', async () => {
  const path = `/api/tickets/${sides.ticket}/organiser-files/quillon-q40`;
  const rows = [
    'First name;Last name;Colour;Mobile;Notes',
    'Sloe;Garth;red;+44 7700 900555;',
    'Iris;Fenwold;blue;;"Mill; weir"',
  ];
  sides.partner = (await api.sendText<PartnerTold>(path, `${rows.join('\r\n')}\r\n`)).body;
  const kinds = ['contacts'] as const;
  const before = namesOf('contacts', onDevice('contacts'));
  const { after } = await both({ kinds });
  expect(after.failed).toEqual([]);
  expect(namesOf('contacts', onDevice('contacts'))).toEqual(
    [...before, 'Iris Fenwold', 'Sloe Garth'].toSorted(),
  );
  const saved = await api.raw(`/api/partners/${sides.partner.id}/files/contacts`);
  expect(saved.headers.get('content-disposition')).toContain('contacts.csv');
  const lines = (await saved.text()).split('\r\n');
  // What those on the device have besides has columns of its own, behind.
  for (const [n, row] of rows.entries()) expect(lines[n]?.startsWith(row)).toBe(true);
  expect(lines).toHaveLength(3 + before.length + 1);
  expect(sums(await synced({ kinds }))).toBe(0);
});

test('a table of a calendar is kept in step, and saved as that table again; what it has no column for gets one', async () => {
  const path = `/api/tickets/${sides.ticket}/organiser-files/quillon-q40`;
  const rows = [
    'Subject,Start date,Start time,Colour',
    'Ferry,2027-03-28,9:05,red',
    'Mill,03/04/2027,,blue',
  ];
  sides.partner = (await api.sendText<PartnerTold>(path, `${rows.join('\r\n')}\r\n`)).body;
  const kinds = ['events'] as const;
  const before = namesOf('events', onDevice('events'));
  const { after } = await both({ kinds });
  expect(after.failed).toEqual([]);
  // What nobody can read of it is none of the calendar.
  expect(namesOf('events', onDevice('events'))).toEqual([...before, 'Ferry'].toSorted());
  const saved = await api.raw(`/api/partners/${sides.partner.id}/files/events`);
  expect(saved.headers.get('content-disposition')).toContain('calendar.csv');
  const lines = (await saved.text()).trimEnd().split('\r\n');
  expect(lines[0]).toMatch(/^Subject,Start date,Start time,Colour,/);
  expect(lines[1]).toMatch(/^Ferry,2027-03-28,9:05,red,/);
  expect(lines.at(-1)).toMatch(/^Mill,03\/04\/2027,,blue,/);
  expect(sums(await synced({ kinds }))).toBe(0);
});

test('a server that refuses in the middle is said so; what was written counts, and the rest comes later, once', async () => {
  let writes = 0;
  let most = 3;
  // What stands between does not answer the fourth that is written, and none after it.
  const between = createServer((request, response) => {
    const isWritten = request.method === 'PUT';
    if (isWritten) writes += 1;
    if (isWritten && writes > most) return void response.writeHead(507).end();
    const { port, hostname } = new URL(radicale.address);
    const { method, url, headers } = request;
    const on = connect({ method, path: url, headers, port, hostname }, (answer) => {
      response.writeHead(answer.statusCode ?? 500, answer.headers);
      answer.pipe(response);
    });
    request.pipe(on);
  });
  between.listen(0, '127.0.0.1');
  await once(between, 'listening');
  const { port } = between.address() as AddressInfo;
  try {
    for (const file of onServer('contacts')) rmSync(file);
    sides.partner = (await sides.opened(RADICALE_PASSWORD, api, `http://127.0.0.1:${port}/`)).body;
    const kinds = ['contacts'] as const;
    await synced({ kinds });
    const { body } = await sides.asked({ kinds, writes: true });
    const ended = await api.ended(body.id);
    expect(ended).toMatchObject({ state: 'failed', problem: { code: 'partner-not-here' } });
    expect(ended.problem?.safe).toContain('nothing is half-written');
    expect(onServer('contacts')).toHaveLength(3);
    most = Infinity;
    const { before, after } = await both({ kinds });
    expect(before.kinds[0]).toMatchObject({
      device: { add: 0, change: 0, remove: 0 },
      partner: { add: onDevice('contacts').length - 3, change: 0 },
    });
    expect(after.failed).toEqual([]);
    expect(namesOf('contacts', onServer('contacts'))).toEqual(
      namesOf('contacts', onDevice('contacts')),
    );
    expect(sums(await synced({ kinds }))).toBe(0);
  } finally {
    between.closeAllConnections();
    between.close();
  }
});

test('by itself, once somebody asked for it: what changed on the device is on the server after it came, until the ticket is closed', async () => {
  const kinds = ['tasks'] as const;
  sides.partner = (await sides.opened()).body;
  await both({ kinds });
  const path = `/api/tickets/${sides.ticket}/regular-syncs`;
  expect((await api.post(path, { partner: randomUUID() })).body).toMatchObject({
    code: 'not-found',
  });
  const { body: all } = await api.post<RegularWork[]>(path, { partner: sides.partner.id });
  expect(all).toMatchObject([
    { sync: { with: null }, ticketNumber: sides.ticket, schedule: { rule: 'on-connect' } },
  ]);
  const [row] = (await sides.db.query<RowDataPacket[]>('select sync from schedules'))[0];
  expect(String(row?.sync)).not.toContain(RADICALE_PASSWORD);
  await api.send('DELETE', `/api/partners/${sides.partner.id}`);

  const open = onDevice('tasks').find((file) => /^STATUS:NEEDS ACTION/m.test(read(file))) ?? '';
  const [name = ''] = namesOf('tasks', [open]);
  rewrite(open, (text) => text.replace(/^SUMMARY.*$/m, 'SUMMARY:Changed by its owner'));
  await unplugged();
  await eventually('both are in step', async () =>
    namesOf('tasks', onServer('tasks')).includes('Changed by its owner'),
  );
  expect(namesOf('tasks', onServer('tasks'))).not.toContain(name);
  const [operations] = await sides.db.query<RowDataPacket[]>(
    "select input, state from operations where kind = 'sync' order by started_at desc limit 1",
  );
  expect(JSON.stringify(operations)).not.toContain(RADICALE_PASSWORD);
  const regular = async () => (await api.get<RegularWork[]>('/api/schedules')).body;
  await eventually('it is over', async () => (await regular())[0]?.lastDone !== null);
  await api.send('DELETE', `/api/schedules/${(await regular())[0]?.id}`);
  expect(await regular()).toEqual([]);
});
