import { writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { problemOf } from '@bright-cellar/core';
import { mediaTypes, writeCards, writeRecords } from '@bright-cellar/core/formats';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  freePort,
  RADICALE_PASSWORD,
  RADICALE_USER,
  startRadicale,
} from '@bright-cellar/rack-stand-ins';
import { davPartner } from './dav.js';
import type { Partner, PartnerCollection } from './partner.js';

let radicale: Awaited<ReturnType<typeof startRadicale>>;
const never = new AbortController().signal;
const partner = (password = RADICALE_PASSWORD): Partner =>
  davPartner({ address: radicale.address, user: RADICALE_USER }, password, never);

beforeAll(async () => {
  radicale = await startRadicale();
});
afterAll(() => radicale.stop());

const collection = async (name: string): Promise<PartnerCollection> => {
  const found = (await partner().collections()).find((one) => one.name === name);
  if (!found) throw new Error(`no ${name}`);
  return found;
};
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'nothing',
    (error: unknown) => problemOf(error).code,
  );
const card = (name: string) =>
  writeCards(
    [
      {
        name,
        numbers: ['07700 900111'],
        emails: [],
        addresses: [],
        birthday: '',
        organisation: '',
        note: 'Né',
        picture: null,
      },
    ],
    '3.0',
  );
/** A server that stores cards wants each to have a name of its own. */
const withUid = (contents: Uint8Array, uid: string) =>
  Buffer.from(new TextDecoder().decode(contents).replace('FN:', `UID:${uid}\r\nFN:`));

test('what a customer has there is found: address books, and calendars as what may be in them', async () => {
  const found = await partner().collections();
  expect(found.map(({ name, kind }) => [name, kind])).toEqual([
    ['People', 'contacts'],
    ['Dates', 'events'],
    ['Jobs', 'tasks'],
    ['Memos', 'notes'],
  ]);
});

describe('a card', () => {
  test('is written, read, written over, and removed', async () => {
    const people = await collection('People');
    const id = await partner().create(people, 'ana-1', withUid(card('Ana'), 'ana-1'));
    const [first] = await partner().resources(people);
    expect(first?.id).toBe(id);
    expect(new TextDecoder().decode(first?.contents)).toContain('FN:Ana');
    await partner().replace(first ?? { id, tag: '' }, withUid(card('Ana Fernhill'), 'ana-1'));
    const second = await partner().resource(people, id);
    expect(new TextDecoder().decode(second?.contents)).toContain('FN:Ana Fernhill');
    expect(new TextDecoder().decode(second?.contents)).toContain('NOTE:Né');
    // What somebody else wrote meanwhile is not written over, and not removed.
    const old = first ?? { id, tag: '' };
    expect(await codeOf(partner().replace(old, withUid(card('Ben'), 'ana-1')))).toBe(
      'changed-meanwhile',
    );
    expect(await codeOf(partner().remove(old))).toBe('changed-meanwhile');
    expect(await codeOf(partner().create(people, 'ana-1', withUid(card('Cas'), 'ana-1')))).toBe(
      'changed-meanwhile',
    );
    await partner().remove(second ?? old);
    expect(await partner().resource(people, id)).toBeNull();
    await partner().remove(second ?? old);
  });

  test('of very many each comes once', async () => {
    const people = await collection('People');
    for (let n = 0; n < 450; n += 1)
      writeFileSync(
        join(radicale.folderOf('people'), `many-${n}.vcf`),
        withUid(card(`Somebody ${n}`), `many-${n}`),
      );
    const found = await partner().resources(people);
    expect(
      new Set(
        found.map(({ contents }) =>
          /FN:(.*)/.exec(new TextDecoder().decode(contents))?.[1]?.trim(),
        ),
      ).size,
    ).toBe(450);
  });
});

test('an event with an exception is one file of a calendar', async () => {
  const dates = await collection('Dates');
  const event = {
    ...{ uid: 'w1', title: 'Choir', place: '', notes: '', alarms: [15], also: [] },
    start: { wall: '2026-03-05T19:00:00', zone: 'Europe/London' },
    end: { wall: '2026-03-05T21:00:00', zone: 'Europe/London' },
    ...{ rule: 'FREQ=WEEKLY', without: ['2026-03-19T19:00:00'], instead: null },
  };
  const moved = {
    ...event,
    rule: null,
    without: [],
    instead: '2026-03-12T19:00:00',
    title: 'Choir, outdoors',
  };
  const contents = writeRecords(
    mediaTypes.icalendar,
    { kind: 'events', events: [event, moved] },
    'w1.ics',
  );
  const id = await partner().create(dates, 'w1', contents);
  const back = await partner().resource(dates, id);
  expect(new TextDecoder().decode(back?.contents)).toContain('RECURRENCE-ID');
  expect((await partner().resources(dates)).map((one) => one.id)).toEqual([id]);
});

describe('what is in the way is said as it is', () => {
  test('another password, nobody there, and one that sends one on', async () => {
    expect(await codeOf(partner('another').collections())).toBe('partner-refused');
    const nowhere = { address: `http://127.0.0.1:${await freePort()}/`, user: 'ana' };
    expect(await codeOf(davPartner(nowhere, 'x', never).collections())).toBe('partner-not-here');
    const sender = createServer((_, response) => {
      response.writeHead(301, { location: 'http://192.0.2.1/' }).end();
    });
    await new Promise<void>((resolve) => sender.listen(0, '127.0.0.1', resolve));
    const { port } = sender.address() as AddressInfo;
    const there = { address: `http://127.0.0.1:${port}/`, user: 'ana' };
    expect(await codeOf(davPartner(there, 'x', never).collections())).toBe('partner-not-here');
    sender.close();
  });

  test('one that never answers is left when somebody says so', async () => {
    const silent = createServer(() => undefined);
    await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', resolve));
    const { port } = silent.address() as AddressInfo;
    const stop = new AbortController();
    setTimeout(() => stop.abort(), 100);
    const there = { address: `http://127.0.0.1:${port}/`, user: 'ana' };
    expect(await codeOf(davPartner(there, 'x', stop.signal).collections())).toBe(
      'partner-not-here',
    );
    silent.closeAllConnections();
    silent.close();
  });
});
