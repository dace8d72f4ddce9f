import { randomUUID } from 'node:crypto';
import { readdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive, ArchiveRow, Operation, Rack } from '@bright-cellar/contract';
import { describe, expect, test } from 'vitest';
import type { Shop } from '../open-shop.js';
import { Api } from '../api.js';
import { eventually, OWNED, PASSWORD } from '../product.js';

/** Work whose process died, and what screens are told of what is away, in a shop with nothing else on its racks. */
export const recovery = ({ product, api, db }: Shop) =>
  describe('recovery', () => {
    /** Makes a finished backup look as if its process had died before it was recorded, and kills the work process. */
    async function cutOffBackup(
      at: 'after its name' | 'before its name',
    ): Promise<{ id: string; archiveId: string }> {
      const started = await api.startBackup(await api.openTicket(OWNED));
      const done = await api.ended(started.body.id);
      const archiveId = done.archiveId ?? '';
      const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
      const { body: racks } = await api.get<Rack[]>('/api/racks');
      const rack = racks.find((r) => r.name === archive.rackName)?.mounted ?? '';
      const name = archive.copies[0]?.folder ?? '';
      await db.query('delete from backups where archive_id = ?', [archiveId]);
      await db.query(
        'delete from proofs where copy_id in (select id from copies where archive_id = ?)',
        [archiveId],
      );
      await db.query('delete from copies where archive_id = ?', [archiveId]);
      await db.query('delete from archive_rows where archive_id = ?', [archiveId]);
      await db.query('delete from archives where id = ?', [archiveId]);
      if (at === 'before its name') renameSync(join(rack, name), join(rack, `.unfinished-${name}`));
      await db.query(
        "update operations set state = 'running', result = null, ended_at = null, lease_owner = ? where id = ?",
        [randomUUID(), done.id],
      );
      process.kill(product.workPid() ?? 0, 'SIGKILL');
      return { id: done.id, archiveId };
    }

    describe('a backup whose process died', () => {
      test.each(['after its name', 'before its name'] as const)(
        'when it was whole, %s: the next process finishes the record, and it can be proven',
        async (at) => {
          const { id, archiveId } = await cutOffBackup(at);
          expect(await api.ended(id)).toMatchObject({ state: 'done', result: { failed: [] } });
          const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
          const proof = await eventually('a work process that takes orders', async () => {
            const answer = await api.post(`/api/backups/${archive.backups[0]?.id}/proofs`, {
              level: 'full',
              password: PASSWORD,
            });
            return answer.status === 200 ? answer.body : null;
          });
          expect((await api.ended(proof.id)).state).toBe('done');
        },
      );

      test('in the middle: it can go on, what was taken is not sent again, and it is whole', async () => {
        const before = (await api.all<ArchiveRow>('/api/archives')).length;
        await product.press(OWNED, { do: 'faults', faults: { rate: 300_000 } });
        const started = await api.startBackup(await api.openTicket(OWNED));
        const { id } = started.body;
        const whole = await eventually('half of it', async () => {
          const { body: now } = await api.get<Operation>(`/api/operations/${id}`);
          return now.totalBytes > 0 && now.doneBytes > now.totalBytes / 2 ? now.totalBytes : null;
        });
        process.kill(product.workPid() ?? 0, 'SIGKILL');
        const cut = await api.ended(id);
        expect(cut).toMatchObject({ state: 'interrupted' });
        expect(cut.keptBytes).toBeGreaterThan(0);
        expect(await api.all<ArchiveRow>('/api/archives')).toHaveLength(before);

        const wrong = await eventually('a work process that takes orders', async () => {
          const answer = await api.post(`/api/operations/${id}/continue`, {
            password: 'not this one',
          });
          return answer.body.code === 'unexpected' ? null : answer;
        });
        expect(wrong.body.code).toBe('wrong-password');
        await product.press(OWNED, { do: 'faults', faults: { rate: null } });
        const again = await api.post(`/api/operations/${id}/continue`, { password: PASSWORD });
        expect(again.status).toBe(200);
        const done = await api.ended(id);
        expect(done).toMatchObject({ id, state: 'done', keptBytes: null });
        // The figures of the last phase but one: what was still to be sent.
        expect(done.result?.bytes).toBeGreaterThanOrEqual(whole);
        const proof = await api.post(`/api/backups/${done.backupId}/proofs`, {
          level: 'full',
          password: PASSWORD,
        });
        expect((await api.ended(proof.body.id)).state).toBe('done');
      });

      test('and is given up: its space is free again', async () => {
        await product.press(OWNED, { do: 'faults', faults: { rate: 300_000 } });
        const { body: running } = await api.startBackup(await api.openTicket(OWNED));
        await eventually('some of it', async () => {
          const { body: now } = await api.get<Operation>(`/api/operations/${running.id}`);
          return now.doneBytes > 200_000;
        });
        await api.post(`/api/operations/${running.id}/stop`);
        const stopped = await api.ended(running.id);
        expect(stopped).toMatchObject({ state: 'stopped' });
        expect(stopped.keptBytes).toBeGreaterThan(0);
        await product.press(OWNED, { do: 'faults', faults: { rate: null } });
        const { body: given } = await api.post(`/api/operations/${running.id}/discard`);
        expect(given.keptBytes).toBeNull();
        const { body: racks } = await api.get<Rack[]>('/api/racks');
        const left = racks.flatMap((rack) => readdirSync(rack.mounted ?? ''));
        expect(left.filter((name) => name.startsWith('.')).sort()).toEqual([
          ...['.bright-cellar-lock', '.bright-cellar-rack', '.bright-cellar-rack'],
        ]);
      });
    });

    describe('what the screens are told', () => {
      test('an archive whose drive is away is said to be away, and comes back with it', async () => {
        const { archiveId, backupId } = await api.provenBackup(OWNED);
        const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
        const { body: racks } = await api.get<Rack[]>('/api/racks');
        const rack = racks.find((r) => r.name === archive.rackName);
        const path = rack?.mounted ?? '';
        renameSync(path, `${path}.away`);
        try {
          const { body: away } = await api.get<Archive>(`/api/archives/${archiveId}`);
          expect(away.copies[0]?.present).toBe(false);
          const refused = await api.post(`/api/backups/${backupId}/proofs`, {
            level: 'full',
            password: PASSWORD,
          });
          expect(refused.body).toMatchObject({
            code: 'archive-not-here',
            next: `Connect ${archive.rackName}, where it lies.`,
          });
          expect(await api.rackOnce(rack?.id, 'away')).toMatchObject({
            free: 0,
            capacity: rack?.capacity,
          });
          // A proven backup that is not there protects nobody.
          expect(
            (await api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' })).body.code,
          ).toBe('not-proven');
          const ticket = await api.openTicket(OWNED);
          expect((await api.startBackup(ticket, { rackId: rack?.id })).body.code).toBe(
            'rack-not-here',
          );
        } finally {
          renameSync(`${path}.away`, path);
        }
        expect((await api.rackOnce(rack?.id, 'here')).free).toBeGreaterThan(0);
        expect((await api.get<Archive>(`/api/archives/${archiveId}`)).body.copies[0]?.present).toBe(
          true,
        );
      });

      test('a rack keeps its reserve: a backup that would eat into it is not started', async () => {
        const [rack] = (await api.get<Rack[]>('/api/racks')).body;
        await db.query('update racks set reserve = ? where id = ?', [1e15, rack?.id]);
        const ticket = await api.openTicket(OWNED);
        const refused = await api.startBackup(ticket, { rackId: rack?.id });
        expect(refused.body).toMatchObject({ code: 'rack-full', safe: 'Nothing was started.' });
        expect(refused.body.what).toMatch(/keeps 1000 TB in reserve/);
        await db.query('update racks set reserve = ? where id = ?', [1e6, rack?.id]);
      });

      test('every change reaches a listening browser, and the end of its session ends the listening', async () => {
        const listener = await Api.signedIn(product);
        const seen: string[] = [];
        const listening = listener.listen((event) =>
          seen.push(
            ...(event.type === 'changed'
              ? event.changes.map(({ subject, ref }) => `${subject} ${ref}`)
              : [event.type]),
          ),
        );
        await eventually('the first picture', async () => seen.includes('bench'));
        await api.openTicket(OWNED);
        await eventually('the new ticket', async () => seen.includes('ticket '));
        const ticket = await api.openTicket(OWNED);
        const started = await api.startBackup(ticket);
        const { id, archiveId } = await api.ended(started.body.id);
        const told = [`ticket ${ticket}`, `operation ${id}`, `archive ${archiveId}`, 'archive '];
        await eventually('the archive', async () =>
          ['operation', ...told].every((what) => seen.includes(what)),
        );
        await listener.send('DELETE', '/api/session', {});
        await listening;
        expect(seen.at(-1)).toBe('signed-out');
      });
    });

    describe('tickets', () => {
      test('numbers are digits that count up, also when many are opened at once', async () => {
        const numbers = await Promise.all(Array.from({ length: 6 }, () => api.openTicket(OWNED)));
        for (const number of numbers) expect(number).toMatch(/^\d{8}$/);
        expect(new Set(numbers).size).toBe(numbers.length);
      });

      test('a known customer is found by a few letters, and tied to a second ticket', async () => {
        const { body: found } = await api.get<{ id: string; name: string }[]>(
          '/api/customers?text=orchard',
        );
        const [customer] = found;
        expect(customer?.name).toBe('Tamsin Orchardgate');
        const number = await api.openTicket(OWNED, { customer: { id: customer?.id } });
        const { body: ticket } = await api.get<{ customer: { id: string } }>(
          `/api/tickets/${number}`,
        );
        expect(ticket.customer.id).toBe(customer?.id);
      });

      test.each(['%', '_', "' or 1=1 --", '\\'])(
        '“%s” is looked for as it is written',
        async (text) => {
          expect((await api.get(`/api/customers?text=${encodeURIComponent(text)}`)).body).toEqual(
            [],
          );
          expect((await api.get(`/api/find?text=${encodeURIComponent(text)}`)).body).toEqual([]);
        },
      );

      test('what cannot be used says which field, and why', async () => {
        const { status, body } = await api.post('/api/tickets', {
          deviceId: OWNED,
          customer: { name: '' },
        });
        expect(status).toBe(422);
        expect(Object.keys(body.fields ?? {})).toEqual(
          expect.arrayContaining(['reason', 'agreed']),
        );
        expect((await api.get('/api/tickets/999')).status).toBe(422);
        expect((await api.get('/api/tickets/99999999')).body).toMatchObject({ code: 'not-found' });
        const broken = await api.send('POST', '/api/tickets', undefined, { 'content-length': '0' });
        expect(broken.status).toBe(422);
      });

      test('everything that was done stands on record, with who did it', async () => {
        const number = await api.openTicket(OWNED, {
          agreed: { backup: false, lookIn: false, escrow: false, keepDays: 30 },
        });
        await api.agree(number);
        const { body: ticket } = await api.get<{ history: { by: string; what: string }[] }>(
          `/api/tickets/${number}`,
        );
        expect(ticket.history).toEqual([
          expect.objectContaining({
            by: 'Joss Kelholt',
            what: 'A backup is taken: the customer agreed.',
          }),
          expect.objectContaining({
            by: 'Joss Kelholt',
            what: expect.stringContaining('no backup agreed') as string,
          }),
        ]);
      });
    });
  });
