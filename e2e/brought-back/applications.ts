import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import type { PackageTold, Rack } from '@bright-cellar/contract';
import { resultOf } from '../api.js';
import type { Shop } from '../open-shop.js';
import { WIPED, MARL } from '../product.js';
import { OTHER } from './devices.js';

/** Packages of single applications, back onto a device with their data and scores. */
export const applications = ({ product, api }: Shop) =>
  describe('applications', () => {
    const TAILS: Record<string, string> = { [MARL]: '4-KX', [OTHER]: '7-BN', [WIPED]: '0T57' };

    const dataOf = (device: string, application: string) =>
      join(product.data, 'bench/devices', device, 'contents/applications', application);
    /** Every file below a folder, by its digest. */
    function treeOf(folder: string): Record<string, string> {
      const files = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((entry) =>
        entry.isFile(),
      );
      return Object.fromEntries(
        files
          .map((entry) => join(entry.parentPath, entry.name))
          .map((path) => [
            path.slice(folder.length),
            createHash('sha256').update(readFileSync(path)).digest('hex'),
          ]),
      );
    }

    let ticket = '';
    let rackId = '';
    const packages = async () =>
      (await api.get<PackageTold[]>(`/api/tickets/${ticket}/application-packages`)).body;
    const start = (device: string, names: readonly string[], more: object = {}) =>
      api.post(`/api/tickets/${ticket}/applications-back`, {
        ...{ deviceId: device, serialTail: TAILS[device] },
        packages: names.map((id) => ({ rackId, name: `${id}.application.zip` })),
        ...more,
      });
    async function bring(device: string, names: readonly string[]) {
      const { body } = await start(device, names);
      expect(body.code, JSON.stringify(body)).toBeUndefined();
      return resultOf(await api.ended(body.id), 'bringApplications');
    }
    const staysIn = ({ report }: { report: { stays: { why: string }[] }[] }) =>
      report.flatMap(({ stays }) => stays.map(({ why }) => why));

    beforeAll(async () => {
      ticket = await api.openTicket(MARL);
      await api.agree(ticket, 'look-in');
      rackId = (await api.get<Rack[]>('/api/racks')).body[0]?.id ?? '';
      const what = {
        kind: 'applications',
        applications: ['crossword', 'pocket-garden', 'tide-table'],
      };
      const { body } = await api.post(`/api/tickets/${ticket}/extracts`, { rackId, what });
      expect((await api.ended(body.id)).state).toBe('done');
    });

    describe('back onto the device that they came from', () => {
      test('packages say what they are, in which version', async () => {
        expect(
          (await packages()).map(({ about }) => [about?.id, about?.applicationVersion]),
        ).toEqual([
          ['crossword', '3.4'],
          ['pocket-garden', '2.1'],
          ['tide-table', '0.7'],
        ]);
      });

      test('one that was lost comes back file by file, its scores too; one with data of its own is left alone', async () => {
        const was = treeOf(dataOf(MARL, 'crossword'));
        rmSync(dataOf(MARL, 'crossword'), { recursive: true });
        writeFileSync(join(dataOf(MARL, 'pocket-garden'), 'scores.json'), '{"best":99999}');
        await product.press(MARL, { do: 'write-note', text: 'Lost a game' });
        const result = await bring(MARL, ['crossword', 'pocket-garden']);
        expect(result).toMatchObject({
          applications: 1,
          items: Object.keys(was).length,
          failed: [],
        });
        expect(staysIn(result)).toEqual(['own-there']);
        expect(treeOf(dataOf(MARL, 'crossword'))).toEqual(was);
        expect(readFileSync(join(dataOf(MARL, 'pocket-garden'), 'scores.json'), 'utf8')).toContain(
          '99999',
        );
        // Twice is once.
        expect(await bring(MARL, ['crossword'])).toMatchObject({ applications: 1, items: 0 });
      });

      test('one that was cut on its way goes on', async () => {
        const was = treeOf(dataOf(MARL, 'crossword'));
        const [lost = ''] = Object.keys(was);
        rmSync(join(dataOf(MARL, 'crossword'), lost));
        await product.press(MARL, { do: 'write-note', text: 'Cut' });
        expect(await bring(MARL, ['crossword'])).toMatchObject({ applications: 1, items: 1 });
        expect(treeOf(dataOf(MARL, 'crossword'))).toEqual(was);
      });
    });

    describe('onto another', () => {
      test('of the family, empty: what the store has no more goes too', async () => {
        await product.press(OTHER, { do: 'plug', berth: 2 });
        await product.press(OTHER, { do: 'charge', percent: 90 });
        await product.press(OTHER, { do: 'workshop-port', state: 'on' });
        await product.press(OTHER, { do: 'approve', passcode: '' });
        expect(await bring(OTHER, ['crossword', 'tide-table'])).toMatchObject({ applications: 2 });
        for (const id of ['crossword', 'tide-table'])
          expect(treeOf(dataOf(OTHER, id))).toEqual(treeOf(dataOf(MARL, id)));
      });

      test('of another family, which does not take that over: refused before anything is written', async () => {
        await product.press(OTHER, { do: 'pull-cable' });
        await product.press(WIPED, { do: 'plug', berth: 2 });
        await product.press(WIPED, { do: 'charge', percent: 90 });
        await product.press(WIPED, { do: 'owner-lock-off' });
        await product.press(WIPED, { do: 'approve', passcode: '' });
        const { body } = await start(WIPED, ['crossword']);
        expect(body).toMatchObject({ code: 'device-not-ready' });
        expect(body.what).toMatch(/does not take over/);
      });
    });

    describe('a package that somebody gives', () => {
      const folder = () => join(product.data, 'racks/alder/extracts', ticket);
      const given = () => readFileSync(join(folder(), 'crossword.application.zip'));

      test('lies beside the others, whole, under a name of its own', async () => {
        const told = await api.sendBytes<PackageTold>(
          `/api/tickets/${ticket}/application-packages/${rackId}`,
          given(),
        );
        expect(told.status, JSON.stringify(told.body)).toBe(200);
        expect(told.body).toMatchObject({
          name: 'crossword-2.application.zip',
          about: { id: 'crossword' },
        });
        expect(await packages()).toHaveLength(4);
      });

      test('is refused where it is none, and nothing of it stays', async () => {
        const before = readdirSync(folder());
        for (const bytes of [Buffer.from('no package'), given().subarray(0, 900)]) {
          const told = await api.sendBytes(
            `/api/tickets/${ticket}/application-packages/${rackId}`,
            bytes,
          );
          expect(told.body.code).toBe('package-damaged');
        }
        expect(readdirSync(folder())).toEqual(before);
      });

      test('that was changed on its rack is found out, and not begun', async () => {
        const bytes = Buffer.from(given());
        // Behind the name of the first file, in what it holds.
        const at = bytes.indexOf('.json') + '.json'.length + 6;
        bytes.writeUInt8((bytes[at] ?? 0) ^ 0x41, at);
        writeFileSync(join(folder(), 'crossword.application.zip'), bytes);
        rmSync(dataOf(MARL, 'crossword'), { recursive: true });
        await product.press(MARL, { do: 'write-note', text: 'Lost again' });
        const result = await bring(MARL, ['crossword']);
        expect(result).toMatchObject({ applications: 0, items: 0 });
        expect(staysIn(result)).toEqual(['damaged']);
        expect(await bring(MARL, ['crossword-2'])).toMatchObject({ applications: 1 });
      });
    });

    test('it is on record', async () => {
      const entries = await api.all<{ action: string; what: string }>('/api/audit');
      const actions = new Set(entries.map(({ action }) => action));
      expect([...actions]).toEqual(
        expect.arrayContaining(['package-given', 'bringApplications-started']),
      );
    });
  });
