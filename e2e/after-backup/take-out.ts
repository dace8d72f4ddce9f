import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openAge } from '@bright-cellar/archive';
import {
  lookTakeOutPath,
  type Archive,
  type Basket,
  type LookAmounts,
  type LookConversation,
  type Pick,
  type Rack,
  type ShelfPart,
  type TakeOut,
} from '@bright-cellar/contract';
import { usualTakeOut, type TakeOutChoices } from '@bright-cellar/core';
import type { Shop } from '../open-shop.js';
import { eventually, OWNED, PASSWORD } from '../product.js';

/** What a customer takes along: picked across classes, in open formats, for a browser or onto a rack. */
export const takeOuts = ({ product, api, db }: Shop) =>
  describe('what is taken out', () => {
    const scratch = mkdtempSync(join(tmpdir(), 'cellar-taken-'));
    afterAll(() => rmSync(scratch, { recursive: true, force: true }));

    let id = '';
    let archive: Archive;
    beforeAll(async () => {
      const { ticket, backupId, archiveId } = await api.provenBackup(OWNED);
      archive = (await api.get<Archive>(`/api/archives/${archiveId}`)).body;
      await api.post(`/api/tickets/${ticket}/agreements`, {
        kind: 'look-in',
        given: true,
        days: null,
      });
      const begun = await api.post<{ id: string }>(`/api/backups/${backupId}/look-ins`, {
        ...{ password: PASSWORD, reason: 'They want their pictures on a stick' },
      });
      id = begun.body.id;
      await eventually('all of it to be read', async () => {
        const { body } = await api.get<LookAmounts>(`/api/look-ins/${id}`);
        return body.isAll && !body.isDating;
      });
    });

    const pick = async (...picks: Pick[]) =>
      (await api.post<Basket>(`/api/look-ins/${id}/basket`, { picks })).body.picks;
    const putAllBack = () => api.post(`/api/look-ins/${id}/basket/put-back`, { keys: [] });
    const state = async (takeOut: string) =>
      (await api.get<TakeOut>(`/api/look-ins/${id}/take-outs/${takeOut}`)).body;
    async function prepared(
      choices: Partial<TakeOutChoices> = {},
      more: { password?: string; onlyFailed?: boolean } = {},
    ): Promise<string> {
      const { status, body } = await api.post<{ id: string; what?: string }>(
        `/api/look-ins/${id}/take-outs`,
        { choices: { ...usualTakeOut, ...choices }, password: null, onlyFailed: false, ...more },
      );
      expect(body.what ?? status).toBe(200);
      return body.id;
    }
    /** Fetches a package and unpacks it, with a tool that checks every sum in it. */
    async function fetched(takeOut: string): Promise<string> {
      const answer = await api.raw(lookTakeOutPath(id, takeOut));
      expect(answer.headers.get('cache-control')).toBe('no-store');
      expect(answer.headers.get('content-disposition')).toMatch(/^attachment; filename=taken-out-/);
      const [file, folder] = [join(scratch, `${takeOut}.zip`), join(scratch, takeOut)];
      writeFileSync(file, Buffer.from(await answer.arrayBuffer()));
      mkdirSync(folder);
      python(
        `import zipfile\nz = zipfile.ZipFile(${JSON.stringify(file)})\nassert z.testzip() is None\nz.extractall(${JSON.stringify(folder)})`,
      );
      return folder;
    }
    const python = (program: string) =>
      execFileSync('/usr/bin/python3', ['-W', 'error', '-c', program], { encoding: 'utf8' });
    const filesIn = (folder: string) =>
      readdirSync(folder, { recursive: true, withFileTypes: true })
        .filter((one) => one.isFile())
        .map((one) => join(one.parentPath, one.name).slice(folder.length + 1))
        .sort();
    const shelf = async <Name extends 'photographs' | 'contacts' | 'calendar'>(name: Name) =>
      (
        await api.post<ShelfPart<Name>>(`/api/look-ins/${id}/shelves/${name}`, {
          text: '',
          from: 0,
        })
      ).body;

    test('nothing is taken out of an empty hand', async () => {
      const body = { choices: usualTakeOut, password: null, onlyFailed: false };
      expect((await api.post(`/api/look-ins/${id}/take-outs`, body)).status).toBe(422);
    });

    test('across classes, in open formats that others read without a word', async () => {
      const { body: told } = await api.post<{ rows: LookConversation[] }>(
        `/api/look-ins/${id}/conversations`,
        { text: '' },
      );
      const [first] = told.rows;
      const one = told.rows.find(({ isGroup }) => !isGroup);
      if (!first || !one) throw new Error('nobody said anything');
      const inHand = await pick(
        { of: 'conversation', conversation: first.id, month: null },
        { of: 'person', conversation: one.id },
        ...(['contacts', 'calendar', 'photographs', 'notes', 'health', 'bookmarks'] as const).map(
          (name): Pick => ({ of: 'found', shelf: name, text: '' }),
        ),
        { of: 'files', class: 'saved-passwords', text: '' },
      );
      expect(inHand[0]).toMatchObject({ count: first.messages });
      expect(inHand[1]?.words).toBe(`All with ${one.people[0]}`);
      // What is never shown is not taken either.
      expect(inHand.at(-1)?.count).toBe(0);
      const folder = await fetched(await prepared());
      const files = filesIn(folder);
      expect(files).toEqual(
        expect.arrayContaining([
          'contacts.vcf',
          'calendar.ics',
          'health.csv',
          'what-was-taken.txt',
        ]),
      );
      expect(files.some((file) => file.includes('saved-passwords'))).toBe(false);
      expect(readFileSync(join(folder, 'what-was-taken.txt'), 'utf8')).toContain('Nothing failed.');

      const page = readFileSync(
        join(folder, files.find((file) => file.endsWith('/conversation.html')) ?? ''),
        'utf8',
      );
      for (const [, source = ''] of page.matchAll(/src="([^"]+)"/g)) {
        expect(files.some((file) => file.endsWith(decodeURIComponent(source)))).toBe(true);
      }
      const cards = python(
        `import vobject, pathlib\nfor card in vobject.readComponents(pathlib.Path(${JSON.stringify(join(folder, 'contacts.vcf'))}).read_text('utf8')):\n  print(card.fn.value)`,
      );
      const { rows: contacts } = await shelf('contacts');
      expect(cards.trim().split('\n').sort()).toEqual(contacts.map(({ name }) => name).sort());
      const events = python(
        `import icalendar, pathlib\nc = icalendar.Calendar.from_ical(pathlib.Path(${JSON.stringify(join(folder, 'calendar.ics'))}).read_bytes())\nfor e in c.walk('VEVENT'):\n  print(e.decoded('dtstart'), e['uid'], e['summary'])`,
      );
      const { rows: happens } = await shelf('calendar');
      expect(events.trim().split('\n').length).toBe(
        new Set(happens.map(({ event }) => event)).size,
      );

      const { rows: photographs } = await shelf('photographs');
      const dated = execFileSync(
        'exiftool',
        ['-s3', '-d', '%Y-%m-%dT%H:%M:%S', '-DateTimeOriginal', '-r', join(folder, 'photographs')],
        { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] },
      );
      for (const { at } of photographs) expect(dated).toContain(at.slice(0, 19));
      const names = files.filter((file) => file.startsWith('photographs/'));
      expect(names.length).toBe(photographs.length);
      for (const name of names) {
        expect(name).toMatch(/^photographs\/\d{4}-\d\d\/\d{4}-\d\d-\d\d_\d{6}_\d{4}\.jpg$/);
      }
      const [rows] = await db.query("select what from audit where action = 'look-taken-out'");
      expect((rows as { what: string }[]).at(-1)?.what).toMatch(/^[1-9]\d* files were taken out/);
    });

    test('one month, as XML that a strict parser reads; a package is read once', async () => {
      await putAllBack();
      const { body: told } = await api.post<{ rows: LookConversation[] }>(
        `/api/look-ins/${id}/conversations`,
        { text: '' },
      );
      const month = told.rows[0]?.to.slice(0, 7) ?? '';
      const [only] = await pick({ of: 'conversation', conversation: told.rows[0]?.id ?? 0, month });
      const takeOut = await prepared({ conversations: 'xml', withMedia: 'none' });
      const folder = await fetched(takeOut);
      const file = filesIn(folder).find((name) => name.endsWith('.xml')) ?? '';
      const moments = python(
        `import xml.etree.ElementTree as t\nfor r in t.parse(${JSON.stringify(join(folder, file))}).getroot():\n  print(r.find('at').text)`,
      );
      const all = moments.trim().split('\n');
      expect(all.length).toBe(only?.count);
      expect(all.every((at) => at.startsWith(month))).toBe(true);
      expect((await api.raw(lookTakeOutPath(id, takeOut))).status).toBe(404);

      const toPrint = await fetched(await prepared({ conversations: 'pdf' }));
      const pdf = filesIn(toPrint).find((name) => name.endsWith('conversation.pdf')) ?? '';
      const pages = readFileSync(join(toPrint, pdf));
      expect([pages.subarray(0, 5).toString(), pages.subarray(-6).toString()]).toEqual([
        ...['%PDF-', '%%EOF\n'],
      ]);
    });

    test('sealed, it opens with its password and holds the same', async () => {
      await putAllBack();
      await pick({ of: 'found', shelf: 'bookmarks', text: '' });
      const takeOut = await prepared({}, { password: 'a lamp for the ferry' });
      const answer = await api.raw(lookTakeOutPath(id, takeOut));
      expect(answer.headers.get('content-disposition')).toMatch(/\.zip\.age$/);
      const sealed = Buffer.from(await answer.arrayBuffer());
      expect(sealed.subarray(0, 21).toString()).toBe('age-encryption.org/v1');
      expect(sealed.includes('bookmarks.html')).toBe(false);
      const pieces: Uint8Array[] = [];
      const source = (async function* () {
        yield sealed;
      })();
      for await (const piece of openAge(source, { password: 'a lamp for the ferry' })) {
        pieces.push(piece);
      }
      expect(Buffer.concat(pieces).includes('bookmarks.html')).toBe(true);
    });

    test('onto a rack it goes as files that were read back, of the days that were chosen, or as one sealed file', async () => {
      await putAllBack();
      const { rows } = (
        await api.post<{ rows: LookConversation[] }>(`/api/look-ins/${id}/conversations`, {
          text: '',
        })
      ).body;
      const [talk] = rows;
      await pick({ of: 'conversation', conversation: talk?.id ?? 0, month: null });
      await pick({ of: 'found', shelf: 'photographs', text: '' });
      const [rack] = (await api.get<Rack[]>('/api/racks')).body;
      const put = async (takeOut: string) => {
        const begun = await api.post<TakeOut & { code?: string }>(
          `/api/look-ins/${id}/take-outs/${takeOut}/to-rack`,
          { rackId: rack?.id },
        );
        expect(begun.body.code ?? begun.body.state).toMatch(/running|done/);
        // Once.
        expect(
          (await api.post(`/api/look-ins/${id}/take-outs/${takeOut}/to-rack`, { rackId: rack?.id }))
            .status,
        ).toBe(404);
        await eventually('the files', async () => (await state(takeOut)).state === 'done');
        const { wrote, failed } = await state(takeOut);
        expect(failed).toEqual([]);
        return join(rack?.mounted ?? '', wrote ?? '');
      };
      const day = talk?.to.slice(0, 10) ?? '';
      const folder = await put(
        await prepared({ conversations: 'jsonl', times: 'utc', since: day, until: day }),
      );
      const names = filesIn(folder);
      expect(names).toContain('what-was-taken.txt');
      const lines = readFileSync(
        join(folder, names.find((name) => name.endsWith('conversation.jsonl')) ?? ''),
        'utf8',
      );
      const days = new Set([...lines.matchAll(/"at":"([^T]+)/g)].map(([, at]) => at));
      expect([...days]).toEqual([day]);
      const pictures = names.filter((name) => name.startsWith('photographs/'));
      expect(pictures).toHaveLength((await shelf('photographs')).total);
      // The same bytes as what a browser gets.
      const browser = await fetched(await prepared({ conversations: 'jsonl', times: 'utc' }));
      for (const name of pictures)
        expect(
          readFileSync(join(folder, name)).equals(readFileSync(join(browser, name))),
          name,
        ).toBe(true);
      const sealed = await put(await prepared({}, { password: 'a lamp for the ferry' }));
      const [only = '', ...others] = filesIn(sealed);
      expect(others).toEqual([]);
      expect(readFileSync(join(sealed, only)).subarray(0, 21).toString()).toBe(
        'age-encryption.org/v1',
      );
    });

    test('what is damaged in the archive is told by name, the rest is taken; mended, only that is taken again', async () => {
      await putAllBack();
      await pick({ of: 'found', shelf: 'photographs', text: '' });
      const copy = join(product.data, 'racks', 'alder', archive.copies[0]?.folder ?? '');
      const packs = filesIn(copy).filter(
        (name) => /packs?\//.test(name) && !name.endsWith('.index'),
      );
      const kept = packs.map((name) => readFileSync(join(copy, name)));
      for (const [n, name] of packs.entries()) {
        const bytes = Buffer.from(kept[n] ?? '');
        // Somewhere in the middle of what photographs lie in.
        for (let at = Math.floor(bytes.length / 2); at < bytes.length * 0.6; at += 997) {
          bytes.writeUInt8(bytes.readUInt8(at) ^ 0x10, at);
        }
        writeFileSync(join(copy, name), bytes);
      }
      const broken = await prepared();
      const folder = await fetched(broken);
      const { failed, taken } = await state(broken);
      expect(failed.length).toBeGreaterThan(0);
      expect(failed.length).toBeLessThan((await shelf('photographs')).total);
      expect(readFileSync(join(folder, 'what-was-taken.txt'), 'utf8')).toContain(failed[0]?.path);
      expect(taken).toBe((await shelf('photographs')).total - failed.length);
      for (const [n, name] of packs.entries()) writeFileSync(join(copy, name), kept[n] ?? '');
      const again = await prepared({}, { onlyFailed: true });
      const mended = filesIn(await fetched(again));
      expect((await state(again)).failed).toEqual([]);
      expect(mended).toEqual([...failed.map(({ path }) => path), 'what-was-taken.txt'].sort());
    });
  });
