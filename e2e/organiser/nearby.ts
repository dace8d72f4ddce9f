import { readFileSync, writeFileSync } from 'node:fs';
import type { Operation, PartnerTold, RegularWork, Ticket } from '@bright-cellar/contract';
import { beforeAll, describe, expect, test } from 'vitest';
import { eventually, OWNED, MARL as PHONE, QUILLON as HANDSET, openMarl } from '../product.js';
import { fileCalled, namesOf, sums, twoSides, type OrganiserShop } from '../organiser-sides.js';

/** A phone in use, kept in step with the same customer’s handset beside it, and with a backup of theirs that is looked into. */
export const nearby = (shop: OrganiserShop) =>
  describe('what is nearby', () => {
    // Nobody whom the shop knows: they agreed to nothing yet.
    const customer = { name: 'Linnet Harrowgate', phone: '+44 7700 900777', email: '' };
    const sides = twoSides(shop, PHONE, '4-KX', { customer });
    const { api, product, onDevice, both, synced, unplugged } = sides;
    const onHandset = (kind: Parameters<typeof onDevice>[0]) => onDevice(kind, HANDSET);
    const open = <T>(what: 'devices' | 'backups', body: object) =>
      api.post<T>(`/api/tickets/${sides.ticket}/partner-${what}/${PHONE}`, body);

    let handsetTicket: string;
    async function opened(): Promise<void> {
      await openMarl(product);
    }
    beforeAll(async () => {
      await opened();
      await api.agree(sides.ticket, 'look-in');
      const { body } = await api.get<Ticket>(`/api/tickets/${sides.ticket}`);
      handsetTicket = await api.openTicket(HANDSET, { customer: { id: body.customer.id } });
    });

    describe('another device', () => {
      test('is opened where it is the same customer’s, who agreed for it too', async () => {
        expect((await open('devices', { other: HANDSET })).body).toMatchObject({
          code: 'not-agreed',
        });
        await api.agree(handsetTicket, 'look-in');
        expect((await open('devices', { other: PHONE })).body).toMatchObject({ code: 'not-found' });
        const somebody = { name: 'Somebody Else', phone: '+44 7700 900777', email: '' };
        const theirs = await api.openTicket(OWNED, { customer: somebody });
        await api.agree(theirs, 'look-in');
        expect((await open('devices', { other: OWNED })).body).toMatchObject({ code: 'not-found' });
        const { body } = await open<PartnerTold>('devices', { other: HANDSET });
        expect(body).toMatchObject({ kind: 'device', mayWrite: true });
        expect(body.books.map(({ kind }) => kind)).toEqual([
          'contacts',
          'events',
          'tasks',
          'notes',
        ]);
        sides.partner = body;
      });

      test('has what the phone has after, and the phone what it has; once more, nothing changes', async () => {
        const kinds = ['contacts', 'tasks'] as const;
        const before = {
          phone: onDevice('contacts').length,
          handset: onHandset('contacts').length,
        };
        const { after } = await both({ kinds });
        expect(after).toMatchObject({ wrote: true, failed: [] });
        for (const kind of kinds)
          expect(namesOf(kind, onHandset(kind))).toEqual(
            // Letters that the handset does not have are others there.
            namesOf(kind, onDevice(kind)).map((name) =>
              name.replaceAll(/[^\p{ASCII}\u00a0-\u00ff]/gu, '?'),
            ),
          );
        expect(onDevice('contacts').length).toBeGreaterThan(Math.max(before.phone, before.handset));
        expect(sums(await synced({ kinds }))).toBe(0);
      });

      test('what is changed on either comes onto the other, and is taken back on both', async () => {
        const kinds = ['contacts'] as const;
        const [one = '', two = ''] = namesOf('contacts', onHandset('contacts')).filter(
          (name) => !name.includes('?'),
        );
        const files = {
          phone: fileCalled('contacts', onDevice('contacts'), one),
          handset: fileCalled('contacts', onHandset('contacts'), two),
        };
        for (const file of Object.values(files))
          writeFileSync(
            file,
            readFileSync(file, 'latin1').replace('END:VCARD', 'ORG:Sluice\r\nEND:VCARD'),
            'latin1',
          );
        await unplugged();
        await opened();
        await product.press(HANDSET, { do: 'pull-cable' });
        await product.press(HANDSET, { do: 'plug', berth: 4 });
        await sides.there(HANDSET);
        const { after } = await both({ kinds });
        expect(after.failed).toEqual([]);
        const isAtSluice = (file: string) => readFileSync(file, 'latin1').includes('Sluice');
        const there = () =>
          isAtSluice(fileCalled('contacts', onHandset('contacts'), one)) &&
          isAtSluice(fileCalled('contacts', onDevice('contacts'), two));
        expect(there()).toBe(true);
        await synced({ kinds, writes: true, undoes: true });
        expect(isAtSluice(fileCalled('contacts', onHandset('contacts'), one))).toBe(false);
        expect(isAtSluice(fileCalled('contacts', onDevice('contacts'), two))).toBe(false);
        expect(isAtSluice(files.phone) && isAtSluice(files.handset)).toBe(true);
      });

      test('that is not there any more is not taken for one whose contacts are gone', async () => {
        await product.press(HANDSET, { do: 'pull-cable' });
        const { body } = await sides.asked({ kinds: ['contacts'] });
        expect(body.code).toBe('device-not-here');
        await product.press(HANDSET, { do: 'plug', berth: 4 });
        await sides.there(HANDSET);
      });
    });

    describe('by itself, once somebody asked for it', () => {
      const regular = async () => (await api.get<RegularWork[]>('/api/schedules')).body;
      const handsetComes = async () => {
        await product.press(HANDSET, { do: 'plug', berth: 4 });
        await sides.there(HANDSET);
      };

      test('what is changed on the handset is on the phone once both are there, and not before', async () => {
        sides.partner = (await open<PartnerTold>('devices', { other: HANDSET })).body;
        await both({ kinds: ['tasks'] });
        const path = `/api/tickets/${sides.ticket}/regular-syncs`;
        const { body } = await api.post<RegularWork[]>(path, { partner: sides.partner.id });
        expect(body).toMatchObject([{ schedule: { rule: 'on-connect' } }]);
        expect(body[0]?.sync?.with).toBe('Ferry office');
        await api.send('DELETE', `/api/partners/${sides.partner.id}`);

        const [name = ''] = namesOf('tasks', onHandset('tasks')).filter((one) =>
          /^[\w ]+$/.test(one),
        );
        const file = fileCalled('tasks', onHandset('tasks'), name);
        await product.press(HANDSET, { do: 'pull-cable' });
        await eventually('it is waited for', async () =>
          (await regular())[0]?.waitsFor?.includes('other device'),
        );
        writeFileSync(
          file,
          readFileSync(file, 'latin1').replace(/^SUMMARY.*$/m, 'SUMMARY:Said on the handset'),
          'latin1',
        );
        await handsetComes();
        await eventually('both are in step', async () =>
          namesOf('tasks', onDevice('tasks')).includes('Said on the handset'),
        );
        expect(namesOf('tasks', onDevice('tasks'))).not.toContain(name);
        await eventually('it is over', async () => (await regular())[0]?.lastDone !== null);
        await api.send('DELETE', `/api/schedules/${(await regular())[0]?.id}`);
      });
    });

    describe('a backup that is looked into', () => {
      test('comes onto the device without taking anything off it, and is never written', async () => {
        const { body: started } = await api.startBackup(handsetTicket);
        const backup: Operation = await api.ended(started.id);
        const { body: look } = await api.post<{ id: string }>(
          `/api/backups/${backup.backupId}/look-ins`,
          { password: 'brass kettle seven moths', reason: 'contacts onto the phone' },
        );
        const { body } = await open<PartnerTold>('backups', { lookIn: look.id });
        expect(body).toMatchObject({ kind: 'backup', mayWrite: false });
        sides.partner = body;
        const kinds = ['contacts', 'tasks', 'notes'] as const;
        expect((await sides.asked({ kinds })).body).toMatchObject({ code: 'device-not-ready' });
        const before = namesOf('notes', onDevice('notes'));
        const { after } = await both({ kinds, direction: 'onto-device' });
        expect(after.failed).toEqual([]);
        expect(after.kinds.every(({ partner }) => partner.add + partner.change === 0)).toBe(true);
        expect(namesOf('notes', onDevice('notes'))).toEqual(expect.arrayContaining(before));
        for (const name of namesOf('notes', onHandset('notes')))
          expect(namesOf('notes', onDevice('notes'))).toContain(name);
        expect(sums(await synced({ kinds, direction: 'onto-device' }))).toBe(0);
        await api.send('DELETE', `/api/look-ins/${look.id}`);
        expect((await open('backups', { lookIn: look.id })).body).toMatchObject({
          code: 'look-in-over',
        });
      });
    });
  });
