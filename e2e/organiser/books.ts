import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { RowDataPacket } from 'mysql2';
import { describe, expect, test } from 'vitest';
import type { PartnerTold, SamePersons } from '@bright-cellar/contract';
import { mediaTypes, parseRecords } from '@bright-cellar/core/formats';
import { RADICALE_PASSWORD } from '@bright-cellar/rack-stand-ins';
import { Api } from '../api.js';
import { QUILLON as HANDSET } from '../product.js';
import { fileCalled, namesOf, sums, twoSides, type OrganiserShop } from '../organiser-sides.js';

/** A keyboard handset over its slow cable, and the customer’s own address book and calendar on Radicale, which nobody opened yet. */
export const books = (shop: OrganiserShop) =>
  describe('address book and calendar', () => {
    const sides = twoSides(shop, HANDSET, '8822');
    const { product, api, db, radicale, onDevice, onServer } = sides;
    const { opened, asked, synced, both, lines, unplugged } = sides;
    const read = (file: string) => readFileSync(file, 'latin1');

    describe('the customer’s server', () => {
      test('is opened once the customer agreed, with the right password, and nothing of it stands in a row', async () => {
        expect((await opened()).body).toMatchObject({ code: 'not-agreed' });
        await api.agree(sides.ticket, 'look-in');
        expect((await opened('another')).body).toMatchObject({ code: 'partner-refused' });
        const { body } = await opened();
        expect(body.books.map(({ name, kind }) => [name, kind])).toEqual([
          ['People', 'contacts'],
          ['Dates', 'events'],
          ['Jobs', 'tasks'],
          ['Memos', 'notes'],
        ]);
        sides.partner = body;
        const technician = await Api.signedIn(product);
        expect(
          (
            await technician.post(`/api/partners/${sides.partner.id}/lines`, {
              kind: 'contacts',
              onlyOpen: false,
              from: 0,
            })
          ).status,
        ).toBe(404);
        const [rows] = await db.query<RowDataPacket[]>('select * from audit');
        expect(JSON.stringify(rows)).not.toContain(RADICALE_PASSWORD);
        expect(JSON.stringify(rows)).not.toContain('People');
      });
    });

    describe('in step', () => {
      test('first everything the handset has is on the server, told before and read back after', async () => {
        const { before, after } = await both();
        expect(before.wrote).toBe(false);
        expect(sums(before)).toBe(onDevice('contacts').length + onDevice('events').length);
        expect(after).toMatchObject({ wrote: true, failed: [] });
        for (const kind of ['contacts', 'events'] as const)
          expect(namesOf(kind, onServer(kind))).toEqual(namesOf(kind, onDevice(kind)));
      });

      test('a second time changes nothing', async () => {
        const again = await synced();
        expect(sums(again)).toBe(0);
        expect(again.kinds.map(({ same }) => same)).toEqual([
          onDevice('contacts').length,
          onDevice('events').length,
        ]);
      });

      test('a change on each side, a removal on each side, a recurrence: each comes over, and what the server alone knows stays', async () => {
        const cards = onServer('contacts');
        const people = namesOf('contacts', cards);
        const [changed = '', removedHere = '', removedThere = '', changedHere = ''] = people;
        const there = fileCalled('contacts', cards, changed);
        const text = readFileSync(there, 'utf8');
        writeFileSync(
          there,
          text.replace('END:VCARD', 'EMAIL:new@post.example\r\nX-OWN:kept\r\nEND:VCARD'),
        );
        rmSync(fileCalled('contacts', cards, removedThere));
        rmSync(fileCalled('contacts', onDevice('contacts'), removedHere));
        const here = fileCalled('contacts', onDevice('contacts'), changedHere);
        writeFileSync(
          here,
          readFileSync(here, 'latin1').replace('END:VCARD', 'ORG:Mill;\r\nEND:VCARD'),
          'latin1',
        );
        const [event = ''] = namesOf('events', onServer('events'));
        const calendar = fileCalled('events', onServer('events'), event);
        writeFileSync(
          calendar,
          readFileSync(calendar, 'utf8')
            .replace(/^RRULE:.*\r?\n/gm, '')
            .replace('END:VEVENT', 'RRULE:FREQ=DAILY;COUNT=3\r\nEND:VEVENT'),
        );
        await unplugged();

        const { before, after } = await both();
        expect(before.kinds).toMatchObject([
          {
            device: { add: 0, change: 1, remove: 1 },
            partner: { add: 0, change: 1, remove: 1 },
            open: 0,
          },
          { device: { change: 1 }, partner: { change: 0 } },
        ]);
        expect(after.failed).toEqual([]);
        expect(namesOf('contacts', onServer('contacts'))).toEqual(
          people.filter((name) => name !== removedHere && name !== removedThere),
        );
        expect(namesOf('contacts', onDevice('contacts'))).toEqual(
          namesOf('contacts', onServer('contacts')),
        );
        expect(
          readFileSync(fileCalled('contacts', onDevice('contacts'), changed), 'latin1'),
        ).toContain('new@post.example');
        expect(
          readFileSync(fileCalled('contacts', onServer('contacts'), changed), 'utf8'),
        ).toContain('X-OWN:kept');
        expect(
          readFileSync(fileCalled('contacts', onServer('contacts'), changedHere), 'utf8'),
        ).toContain('ORG:Mill');
        expect(readFileSync(fileCalled('events', onDevice('events'), event), 'latin1')).toMatch(
          /RRULE:D1 #3/,
        );
        expect(sums(await synced())).toBe(0);
      });

      test('an occurrence that differs lies apart on the handset, which has no word for it: moved, changed there, and let go', async () => {
        const file = fileCalled(
          'events',
          onServer('events'),
          namesOf('events', onServer('events'))[0] ?? '',
        );
        const text = readFileSync(file, 'utf8');
        const uid = /^UID:(.*)$/m.exec(text)?.[1]?.trim() ?? '';
        const start = /^DTSTART[^:]*:(.*)$/m.exec(text)?.[1]?.trim() ?? '';
        const wall = start.replace(/Z$/, '');
        const withMoved = text.replace(
          'END:VCALENDAR',
          `BEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:20260101T000000Z\r\nRECURRENCE-ID:${start}\r\nDTSTART:${start}\r\nSUMMARY:Moved\r\nEND:VEVENT\r\nEND:VCALENDAR`,
        );
        writeFileSync(file, withMoved);
        const onHandset = () => onDevice('events').map((path) => readFileSync(path, 'latin1'));
        const apart = () => onHandset().filter((one) => one.includes('SUMMARY:Moved'));
        const leftOut = () => onHandset().filter((one) => one.includes(`EXDATE:${wall}`)).length;
        const before = onHandset();
        expect((await both()).after.failed).toEqual([]);
        expect(apart()).toHaveLength(1);
        expect(apart()[0]).not.toContain('RRULE');
        expect([onHandset().length, leftOut()]).toEqual([before.length + 1, 1]);
        expect(sums(await synced())).toBe(0);

        // Changed on the handset, it stays the occurrence that it was on the server.
        const there = onDevice('events').find((path) => read(path).includes('SUMMARY:Moved')) ?? '';
        const changed = readFileSync(there, 'latin1').replace(
          'SUMMARY:Moved',
          'SUMMARY:Moved again',
        );
        writeFileSync(there, changed, 'latin1');
        await unplugged();
        expect((await both()).after.failed).toEqual([]);
        const onServerNow = readFileSync(file, 'utf8');
        expect(onServerNow).toContain('SUMMARY:Moved again');
        expect(onServerNow.match(/BEGIN:VEVENT/g)).toHaveLength(2);
        expect(onServerNow).not.toContain('EXDATE');
        expect(sums(await synced())).toBe(0);

        // Taken away on the handset, that occurrence happens nowhere.
        rmSync(there);
        await unplugged();
        expect((await both()).after.failed).toEqual([]);
        expect(readFileSync(file, 'utf8').match(/BEGIN:VEVENT|EXDATE/g)).toEqual([
          'BEGIN:VEVENT',
          'EXDATE',
        ]);
        expect([apart().length, leftOut()]).toEqual([0, 1]);
        expect(sums(await synced())).toBe(0);
        writeFileSync(file, withMoved);
        expect((await both()).after.failed).toEqual([]);
        expect([apart().length, leftOut()]).toEqual([1, 1]);

        // Let go on the server, it happens again like all the others.
        writeFileSync(file, text);
        expect((await both()).after.failed).toEqual([]);
        expect([apart().length, leftOut(), onHandset().length]).toEqual([0, 0, before.length]);
        expect(sums(await synced())).toBe(0);
      });

      test('what both changed is shown side by side, waits, and becomes what was decided', async () => {
        const [name = ''] = namesOf('contacts', onServer('contacts'));
        const there = fileCalled('contacts', onServer('contacts'), name);
        const withNote = (text: string, note: string) =>
          text
            .replace(/^NOTE.*\r?\n(?:[ \t].*\r?\n)*/gm, '')
            .replace('END:VCARD', `NOTE:${note}\r\nEND:VCARD`);
        writeFileSync(there, withNote(readFileSync(there, 'utf8'), 'Weir'));
        const here = fileCalled('contacts', onDevice('contacts'), name);
        writeFileSync(here, withNote(readFileSync(here, 'latin1'), 'Mill'), 'latin1');
        await unplugged();
        await synced();
        const told = await lines('contacts', true);
        expect(told.lines).toMatchObject([
          { title: name, isOpen: true, conflict: { fields: ['note'] } },
        ]);
        const noteOf = (side: 'device' | 'partner') =>
          told.lines[0]?.[side].parts?.find(({ field }) => field === 'note')?.words;
        expect([noteOf('device'), noteOf('partner')]).toEqual(['Mill', 'Weir']);
        const decide = { kind: 'contacts', at: null, decision: 'device' };
        expect((await api.post(`/api/partners/${sides.partner.id}/decisions`, decide)).status).toBe(
          200,
        );
        expect((await lines('contacts')).open).toBe(0);
        expect((await synced({ writes: true })).failed).toEqual([]);
        expect(readFileSync(fileCalled('contacts', onServer('contacts'), name), 'utf8')).toContain(
          'NOTE:Mill',
        );
        expect(sums(await synced())).toBe(0);
      });

      test('what would remove too much is held up until somebody says that it is meant', async () => {
        for (const file of onServer('contacts').slice(0, 5)) rmSync(file);
        const before = await synced();
        expect(before.kinds[0]).toMatchObject({ device: { remove: 5 }, tooMuch: ['device'] });
        const held = await asked({ writes: true });
        const ended = await api.ended(held.body.id);
        expect(ended).toMatchObject({ state: 'failed', problem: { code: 'not-agreed' } });
        const left = onDevice('contacts').length;
        await synced();
        await synced({ writes: true, removesMeant: true });
        expect(onDevice('contacts')).toHaveLength(left - 5);
      });

      test('what was written is taken back on both sides, but for what was changed since', async () => {
        const before = {
          device: onDevice('contacts').map(read),
          server: onServer('contacts').map(read),
        };
        const [one = '', two = '', three = ''] = namesOf('contacts', onServer('contacts'));
        const at = (name: string) => fileCalled('contacts', onServer('contacts'), name);
        for (const name of [one, two])
          writeFileSync(
            at(name),
            read(at(name)).replace('END:VCARD', 'TEL:0151 496 0777\r\nEND:VCARD'),
            'latin1',
          );
        rmSync(at(three));
        before.server = onServer('contacts').map(read);
        await both();
        expect(onDevice('contacts').map(read).toSorted()).not.toEqual(before.device.toSorted());
        const here = fileCalled('contacts', onDevice('contacts'), two);
        writeFileSync(here, read(here).replace('END:VCARD', 'ORG:Mill;\r\nEND:VCARD'), 'latin1');
        const changed = read(here);
        await unplugged();
        const back = await synced({ writes: true, undoes: true });
        expect(back.failed).toEqual([
          { class: 'contacts', reason: 'it was changed since', count: 1 },
        ]);
        const kept = before.device.filter((text) => !text.includes(two.split(' ')[1] ?? two));
        expect(onDevice('contacts').map(read)).toEqual(expect.arrayContaining(kept));
        expect(onDevice('contacts').map(read)).toContain(changed);
        expect(onServer('contacts').map(read).toSorted()).toEqual(before.server.toSorted());
        const again = await asked({ writes: true, undoes: true });
        expect(await api.ended(again.body.id)).toMatchObject({ problem: { code: 'not-found' } });
        // The same would be brought over once more.
        expect((await synced()).kinds[0]).toMatchObject({ device: { remove: 1 } });
        await synced({ writes: true });
      });

      test('two cards of one person are found with what speaks for it, joined on both sides, and two again until then', async () => {
        const [name = ''] = namesOf('contacts', onDevice('contacts'));
        const here = read(fileCalled('contacts', onDevice('contacts'), name));
        const number = /^TEL[^:]*:(.*)$/m.exec(here)?.[1]?.trim() ?? '';
        const [given = '', family = ''] = name.split(' ');
        writeFileSync(
          join(radicale.folderOf('people'), 'twin.vcf'),
          `BEGIN:VCARD\r\nVERSION:3.0\r\nUID:twin\r\nN:${given};${family};;;\r\nFN:${family}\\, ${given}\r\nTEL:${number}\r\nEMAIL:twin@post.example\r\nEND:VCARD\r\n`,
        );
        await synced();
        const found = async () =>
          (await api.get<SamePersons>(`/api/partners/${sides.partner.id}/persons`)).body;
        const [pair] = (await found()).pairs;
        expect(pair).toMatchObject({
          isCertain: true,
          isJoined: false,
          reasons: ['same-number', 'same-name'],
        });
        expect(pair?.names.toSorted()).toEqual([`${family}, ${given}`, name].toSorted());
        const joined = async (how: object) =>
          api.post(`/api/partners/${sides.partner.id}/joins`, how);
        const two = { one: pair?.one, other: pair?.other };
        await joined({ pair: two, areOne: true });
        expect((await found()).pairs[0]?.isJoined).toBe(true);
        await joined({ pair: two, areOne: false });
        expect((await found()).pairs[0]?.isJoined).toBe(false);
        await joined({ pair: null, areOne: true });
        expect((await synced({ writes: true })).failed).toEqual([]);
        for (const files of [onDevice('contacts'), onServer('contacts')]) {
          const isThem = (one: string) => one.includes(given) && one.includes(family);
          expect(namesOf('contacts', files).filter(isThem)).toHaveLength(1);
          expect(files.map(read).filter((text) => text.includes('twin@post.example'))).toHaveLength(
            1,
          );
        }
        expect(sums(await synced())).toBe(0);
      });

      test('only off the device writes nothing on it', async () => {
        const [name = ''] = namesOf('contacts', onServer('contacts'));
        rmSync(fileCalled('contacts', onServer('contacts'), name));
        const before = namesOf('contacts', onDevice('contacts'));
        await both({ direction: 'off-device' });
        expect(namesOf('contacts', onDevice('contacts'))).toEqual(before);
      });
    });

    describe('files that the customer brought', () => {
      const card = (name: string, more: string) =>
        `BEGIN:VCARD\r\nVERSION:3.0\r\nN:${name};;;;\r\nFN:${name}\r\n${more}END:VCARD\r\n`;
      const give = (text: string) =>
        api.sendText<PartnerTold>(`/api/tickets/${sides.ticket}/organiser-files/${HANDSET}`, text);

      test('are brought into step with the device, and fetched again; nothing is taken for gone, and nothing remembered', async () => {
        expect((await give('only words')).body).toMatchObject({ code: 'input-not-valid' });
        const before = namesOf('contacts', onDevice('contacts'));
        const { body } = await give(
          `${card('Sloe Garth', 'TEL:0151 496 0101\r\nX-OWN:kept\r\n')}${card('Iris Fenwold', '')}\r\nBEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//somebody//EN\r\nBEGIN:VEVENT\r\nUID:boat\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:20261201T090000Z\r\nSUMMARY:Boat\r\nEND:VEVENT\r\nBEGIN:VEVENT\r\nUID:hall\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:20261202T090000Z\r\nSUMMARY:Hall\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`,
        );
        expect(body).toMatchObject({ kind: 'files', mayWrite: true });
        sides.partner = body;
        const { after } = await both();
        expect(after.failed).toEqual([]);
        expect(namesOf('contacts', onDevice('contacts'))).toEqual(
          [...before, 'Iris Fenwold', 'Sloe Garth'].toSorted(),
        );
        expect(namesOf('events', onDevice('events'))).toEqual(
          expect.arrayContaining(['Boat', 'Hall']),
        );
        const contacts = await (
          await api.raw(`/api/partners/${sides.partner.id}/files/contacts`)
        ).text();
        expect(contacts).toContain('X-OWN:kept');
        for (const name of before) expect(contacts).toContain(name.split(' ')[0]);
        const calendar = await (
          await api.raw(`/api/partners/${sides.partner.id}/files/events`)
        ).text();
        const records = parseRecords(mediaTypes.icalendar, Buffer.from(calendar), 'a.ics');
        if (records.kind !== 'events') throw new Error('none');
        expect(records.events.map(({ title }) => title).toSorted()).toEqual(
          namesOf('events', onDevice('events')),
        );
        expect(sums(await synced())).toBe(0);
        // Another file without them takes nothing off the device.
        sides.partner = (await give(card('Una Tarn', ''))).body;
        const again = await synced();
        expect(again.kinds.map(({ device }) => device.remove)).toEqual([0, 0]);
      });
    });

    test('what was done is on record, and no name of anybody', async () => {
      const [rows] = await db.query<RowDataPacket[]>('select action, what from audit');
      const actions = rows.map(({ action }) => String(action));
      expect(actions).toEqual(expect.arrayContaining(['partner-opened', 'sync-started']));
      for (const name of namesOf('contacts', onDevice('contacts')))
        expect(JSON.stringify(rows)).not.toContain(name);
    });

    test('what was in step is kept sealed: nobody’s name is in any row', async () => {
      const [rows] = await db.query<RowDataPacket[]>('select * from sync_states');
      expect(rows).toHaveLength(2);
      const [called] = [namesOf('contacts', onDevice('contacts'))];
      const [inputs] = await db.query<RowDataPacket[]>(
        'select input, result, problem from operations',
      );
      const all = JSON.stringify([rows, inputs]);
      for (const name of called) expect(all).not.toContain(name);
      expect(all).not.toContain(radicale.address);
    });
  });
