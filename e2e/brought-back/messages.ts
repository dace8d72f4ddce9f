import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { RowDataPacket } from 'mysql2';
import { beforeAll, describe, expect, test } from 'vitest';
import type { FileTold } from '@bright-cellar/contract';
import { goesOver, type ExtractFormat } from '@bright-cellar/core';
import { extractOf, keyed, mediaPath, plainStyle, writeExtract } from '@bright-cellar/core/extract';
import { mediaTypes, parseRecords } from '@bright-cellar/core/formats';
import { Api, resultOf } from '../api.js';
import type { Shop } from '../open-shop.js';
import { MARL, JOSS } from '../product.js';
import { HANDSET } from './devices.js';

/** Messages and calls out of open files, back onto a device: in their order, without doubling. */
export const messages = ({ product, api, db }: Shop) =>
  describe('messages and calls', () => {
    const TAILS: Record<string, string> = { [MARL]: '4-KX', [HANDSET]: '0931' };

    const folderOf = (device: string) => join(product.data, 'bench/devices', device, 'contents');
    const filesOf = (device: string, dataClass: string): string[] =>
      readdirSync(join(folderOf(device), dataClass), { recursive: true, withFileTypes: true })
        .filter((entry) => entry.isFile())
        .map((entry) => join(entry.parentPath, entry.name).slice(folderOf(device).length + 1))
        .toSorted();
    const formatOf = (path: string) =>
      path.endsWith('.jsonl')
        ? mediaTypes.thread
        : path.endsWith('.txt')
          ? mediaTypes.shortMessages
          : null;
    const messagesOn = (device: string) =>
      filesOf(device, 'messages').flatMap((path) => {
        const format = formatOf(path);
        if (format === null) return [];
        const records = parseRecords(format, readFileSync(join(folderOf(device), path)), path);
        return records.kind === 'messages' ? records.messages : [];
      });
    const told = (device: string) =>
      messagesOn(device)
        .map(({ at, from, text }) => `${at.toISOString()} ${from} ${text}`)
        .toSorted();

    /** All that was said on the device, as an open file. */
    function fileOf(device: string, format: ExtractFormat): string {
      const people = filesOf(device, 'messages').flatMap((path) => {
        if (!path.endsWith('thread.json')) return [];
        const contents = readFileSync(join(folderOf(device), path));
        const records = parseRecords(mediaTypes.threadPeople, contents, path);
        return records.kind === 'threads' ? records.threads : [];
      });
      const threads = new Map(people.map((thread) => [thread.name, thread]));
      const records = keyed(extractOf({ kind: 'messages', messages: messagesOn(device) }));
      return writeExtract(format, records, { ...plainStyle, threads }, null).file;
    }

    async function give(ticket: string, device: string, text: string, by = api): Promise<FileTold> {
      const { status, body } = await by.sendText<FileTold>(
        `/api/tickets/${ticket}/message-files/${device}`,
        text,
      );
      expect(status, JSON.stringify(body)).toBe(200);
      return body;
    }
    const begin = (ticket: string, device: string, file: string, writes: boolean, by = api) =>
      by.post(`/api/tickets/${ticket}/messages-back`, {
        ...{ deviceId: device, file, serialTail: writes ? TAILS[device] : null },
      });
    async function bring(ticket: string, device: string, file: string, writes: boolean) {
      const { body } = await begin(ticket, device, file, writes);
      expect(body.code, JSON.stringify(body)).toBeUndefined();
      return resultOf(await api.ended(body.id), 'bringBack');
    }

    const tickets: Record<string, string> = {};
    beforeAll(async () => {
      tickets[MARL] = await api.openTicket(MARL);
    });

    describe.each(['jsonl', 'csv', 'xml', 'html'] as const)('a file as %s', (format) => {
      test('what the device lost comes back in its place, what it has does not come twice', async () => {
        const ticket = tickets[MARL] ?? '';
        const was = told(MARL);
        const file = await give(ticket, MARL, fileOf(MARL, format));
        expect(file).toMatchObject({ messages: was.length, calls: 0, unknown: [], twice: 0 });
        const same = await bring(ticket, MARL, file.id, false);
        expect(same.report.map((line) => goesOver(line))).toEqual(same.report.map(() => 0));

        const months = filesOf(MARL, 'messages').filter((path) => path.endsWith('.jsonl'));
        for (const path of months.slice(0, 2)) rmSync(join(folderOf(MARL), path));
        const lost = was.length - told(MARL).length;
        expect(lost).toBeGreaterThan(0);
        await product.press(MARL, { do: 'write-note', text: `Lost, for ${format}` });
        const before = await bring(ticket, MARL, file.id, false);
        expect(before).toMatchObject({ wrote: false, items: lost });
        expect(told(MARL)).toHaveLength(was.length - lost);
        expect(await bring(ticket, MARL, file.id, true)).toMatchObject({
          wrote: true,
          items: lost,
        });
        expect(told(MARL)).toEqual(was);
      });
    });

    test('pictures that lie beside it come back with their messages, each once; others are not taken', async () => {
      const ticket = tickets[MARL] ?? '';
      const pictured = () =>
        messagesOn(MARL).flatMap(({ at, attachment }) =>
          attachment === null
            ? []
            : [
                [
                  at.toISOString(),
                  readFileSync(join(folderOf(MARL), attachment)).toString('base64'),
                ],
              ],
        );
      const was = pictured();
      const lost = messagesOn(MARL).filter(({ attachment }) => attachment !== null);
      const places = new Map(
        lost.map(({ attachment }) => [
          mediaPath({ attachment }) ?? '',
          readFileSync(join(folderOf(MARL), attachment ?? '')),
        ]),
      );
      expect(places.size).toBeGreaterThan(1);
      const text = fileOf(MARL, 'jsonl');
      for (const path of filesOf(MARL, 'messages'))
        if (!path.endsWith('thread.json')) rmSync(join(folderOf(MARL), path));
      await product.press(MARL, { do: 'write-note', text: 'All was lost' });

      const given = await give(ticket, MARL, text);
      expect(given).toMatchObject({ without: was.length, pictures: 0 });
      const send = (place: string, bytes: Buffer) =>
        api.sendBytes<{ isWanted: boolean }>(
          `/api/tickets/${ticket}/message-files/${given.id}/pictures`,
          bytes,
          { 'content-type': 'image/jpeg', 'x-place': encodeURI(place) },
        );
      for (const [place, bytes] of places) {
        expect((await send(place, bytes)).body).toEqual({ isWanted: true });
      }
      expect((await send('holiday/of-somebody-else.jpg', Buffer.from('x'))).body.isWanted).toBe(
        false,
      );
      expect((await send('../../../etc/passwd', Buffer.from('x'))).body.isWanted).toBe(false);
      const { body: mapped } = await api.post<FileTold>(
        `/api/tickets/${ticket}/message-files/${given.id}/mapping`,
        { mapping: given.mapping, numbers: {} },
      );
      expect(mapped).toMatchObject({ without: 0, pictures: places.size });
      const { report, failed } = await bring(ticket, MARL, given.id, true);
      expect(failed).toEqual([]);
      expect(report.reduce((sum, one) => sum + goesOver(one), 0)).toBe(
        mapped.messages + places.size,
      );
      expect(pictured().toSorted()).toEqual(was.toSorted());
      expect(await bring(ticket, MARL, given.id, true)).toMatchObject({ items: 0 });
    });

    describe('a file that somebody edited', () => {
      const numbers = '+44 7700 900777';
      const csv =
        'Date;Sender;With;Message\r\n25/11/2026 14:05;Nobody Known;Nobody Known;Edited by hand\r\n' +
        `25/11/2026 14:06;me;Nobody Known;An answer\r\n;me;${numbers};Without a day\r\n`;

      test('asks for the numbers of names, says what stays out, and keeps nothing of it on record', async () => {
        const ticket = tickets[MARL] ?? '';
        const file = await give(ticket, MARL, csv);
        expect(file).toMatchObject({ messages: 0, unknown: ['Nobody Known'] });
        const { body: mapped } = await api.post<FileTold>(
          `/api/tickets/${ticket}/message-files/${file.id}/mapping`,
          { mapping: file.mapping, numbers: { 'Nobody Known': numbers } },
        );
        expect(mapped).toMatchObject({ messages: 2, unknown: [], conversations: 1 });
        expect(mapped.leftOut).toEqual({ count: 1, first: [{ line: 3, why: 'no-moment' }] });
        expect(await bring(ticket, MARL, file.id, true)).toMatchObject({ items: 2, leftOut: 1 });
        expect(told(MARL).filter((line) => line.includes('Edited by hand'))).toHaveLength(1);
        const [rows] = await db.query<RowDataPacket[]>('select * from operations');
        const [entries] = await db.query<RowDataPacket[]>('select * from audit');
        expect(entries.some(({ action }) => action === 'bringBack-started')).toBe(true);
        expect(JSON.stringify([rows, entries])).not.toMatch(/Nobody Known|Edited by hand|900777/);
      });

      test('is its giver’s own; nobody else’s work reads it, and what cannot be read is refused', async () => {
        const ticket = tickets[MARL] ?? '';
        const file = await give(ticket, MARL, csv);
        const joss = await Api.signedIn(product, JOSS);
        expect((await begin(ticket, MARL, file.id, true, joss)).body.code).toBe('not-found');
        const { body } = await api.sendText(
          `/api/tickets/${ticket}/message-files/${MARL}`,
          'nothing',
        );
        expect(body.code).toBe('input-not-valid');
        const wrong = await api.post(`/api/tickets/${ticket}/messages-back`, {
          ...{ deviceId: MARL, file: file.id, serialTail: '0000' },
        });
        expect(wrong.body.code).toBe('wrong-serial');
      });
    });

    test('onto an empty handset, as texts of its own: all of them, in their order', async () => {
      // Each is a file of its own there: of all of them a few hundred.
      const lines = fileOf(MARL, 'jsonl').split('\n').slice(0, 400);
      const file = lines.join('\n');
      await product.press(MARL, { do: 'pull-cable' });
      await product.press(HANDSET, { do: 'plug', berth: 3 });
      await product.press(HANDSET, { do: 'erase' });
      await product.press(HANDSET, { do: 'charge', percent: 90 });
      const ticket = await api.openTicket(HANDSET);
      const given = await give(ticket, HANDSET, file);
      const { items } = await bring(ticket, HANDSET, given.id, true);
      expect(items).toBe(messagesOn(HANDSET).length);
      expect(items).toBe(lines.length);
      const again = await give(ticket, HANDSET, file);
      expect(await bring(ticket, HANDSET, again.id, false)).toMatchObject({ items: 0 });
    });
  });
