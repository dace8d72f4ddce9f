import { readdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import type { Archive, PersonRow, Rack } from '@bright-cellar/contract';
import { beforeAll, describe, expect, test } from 'vitest';
import type { Shop } from '../open-shop.js';
import { eventually, OWNED, PASSWORD, SIGN_IN, JOSS } from '../product.js';

/** The shop’s escrow: two people together, whoever they are now, and only as long as the customer agrees. One of them leaves. */
export const lostPassword = ({ api, db }: Shop) =>
  describe('escrow', () => {
    let ticket = '';
    let archive: Archive;
    let rack: Rack;

    const FIRST = ['bright marsh one two three', 'bright marsh four five six'];
    const SECOND = ['open quarry one two three', 'open quarry four five six'];
    const people = ([one = '', other = '']: string[]) => [
      { ...SIGN_IN, phrase: one },
      { ...JOSS, phrase: other },
    ];
    const open = (phrases: string[], newPassword = PASSWORD) =>
      api.post<Archive>(`/api/archives/${archive.id}/escrow`, {
        ...{ people: people(phrases), newPassword, passwordHolder: 'shop', reminder: '' },
      });
    const keyFiles = () =>
      readdirSync(join(rack.mounted ?? '', archive.copies[0]?.folder ?? '', 'data/keys')).filter(
        (name) => name.startsWith('escrow-'),
      );
    const record = async (action: string) => {
      const [rows] = await db.query<mysql.RowDataPacket[]>(
        'select what from audit where action = ? order by id',
        [action],
      );
      return rows.map((row) => String(row.what));
    };
    const agree = (given: boolean) =>
      api.post(`/api/tickets/${ticket}/agreements`, { kind: 'escrow', given, days: null });
    const proven = async (password: string) => {
      const { body } = await api.post(`/api/backups/${archive.backups[0]?.id}/proofs`, {
        ...{ level: 'full', password },
      });
      return (await api.ended(body.id)).state;
    };

    beforeAll(async () => {
      expect((await api.post('/api/escrow', { people: people(FIRST) })).status).toBe(200);
      ticket = await api.openTicket(OWNED, {
        agreed: { backup: true, lookIn: false, escrow: true, keepDays: 30 },
      });
      const { archiveId } = await api.ended((await api.startBackup(ticket)).body.id);
      archive = (await api.get<Archive>(`/api/archives/${archiveId}`)).body;
      const { body: racks } = await api.get<Rack[]>('/api/racks');
      const place = racks.find(({ id }) => id === archive.copies[0]?.rackId);
      if (!place) throw new Error('the archive is nowhere');
      rack = place;
      // Other people's phrases from now on; what was sealed to the first stays sealed to the first.
      expect((await api.post('/api/escrow', { people: people(SECOND) })).status).toBe(200);
    });

    describe('an archive that was sealed to an earlier escrow', () => {
      test('opens with the phrases of then, and has the new password then', async () => {
        expect(keyFiles()).toHaveLength(1);
        expect((await open(FIRST, 'four words that hold')).status).toBe(200);
        expect(await proven('four words that hold')).toBe('done');
        expect((await open(FIRST)).status).toBe(200);
        expect((await record('escrow-opened')).at(-1)).toMatch(/opened the archive by escrow/);
      });

      test.each([
        ['the phrases of now', SECOND],
        ['one right phrase and a wrong one', [FIRST[0] ?? '', SECOND[1] ?? '']],
        ['the right phrases, each of the other person', [...FIRST].reverse()],
      ])('does not open with %s, and that is on record', async (_, phrases) => {
        const before = (await record('escrow-opened')).length;
        expect((await open(phrases, 'four words that hold')).body.code).toBe('wrong-password');
        const lines = await record('escrow-opened');
        expect(lines.length).toBe(before + 1);
        expect(lines.at(-1)).toMatch(/tried to open the archive by escrow, and did not/);
        expect(lines.join()).not.toContain('marsh');
        expect(await proven(PASSWORD)).toBe('done');
      });
    });

    describe('a consent that is taken back', () => {
      test('while its rack is away: nobody opens it by escrow any more, and the key goes when the rack comes', async () => {
        const marker = join(rack.mounted ?? '', '.bright-cellar-rack');
        renameSync(marker, `${marker}.away`);
        expect((await agree(false)).status).toBe(200);
        expect((await open(FIRST)).body.code).toBe('not-found');
        expect(keyFiles()).toHaveLength(1);
        expect(await record('escrow-withdrawn')).toEqual([]);
        renameSync(`${marker}.away`, marker);
        await eventually('its key to be gone', async () => keyFiles().length === 0, 60_000);
        await eventually('the record', async () => (await record('escrow-withdrawn')).length === 1);
      });

      test('leaves an archive that is whole and known: it can be proven, and holds on to its own password', async () => {
        expect(await proven(PASSWORD)).toBe('done');
        const { body } = await api.get<Archive>(`/api/archives/${archive.id}`);
        expect(body).toMatchObject({ escrow: false, damaged: false });
        expect(body.provenAt).not.toBeNull();
      });

      test('and given again does not bring back what is gone: the archive says so', async () => {
        expect((await agree(true)).status).toBe(200);
        const refused = await open(FIRST);
        expect(refused.body.code).toBe('not-found');
        expect(refused.body.what).toMatch(/only its password opens it/);
      });
    });

    test('one of the two leaves: how the installation is says what opens no more', async () => {
      const escrow = async () =>
        (await api.get<{ about: string; what: string }[]>('/api/condition')).body.find(
          ({ about }) => about === 'Escrow',
        );
      expect(await escrow()).toBeUndefined();
      const { body: people } = await api.get<PersonRow[]>('/api/people');
      const joss = people.find(({ login }) => login === 'joss');
      expect((await api.post(`/api/people/${joss?.id ?? ''}/leave`, {})).status).toBe(200);
      expect((await escrow())?.what).toMatch(/phrase of Joss Kelholt, who works here no longer/);
    });
  });
