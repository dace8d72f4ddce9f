import type { Archive, CustomerData, DaySheet, Ticket } from '@bright-cellar/contract';
import { beforeAll, describe, expect, test } from 'vitest';
import type { ProvenBackup } from '../api.js';
import type { Shop } from '../open-shop.js';
import { OWNED } from '../product.js';

/** The day’s sheets, and what is known of a customer: in a shop that knows one. */
export const day = ({ product, api, db }: Shop) =>
  describe('the day', () => {
    let made: ProvenBackup;
    beforeAll(async () => {
      made = await api.provenBackup(OWNED);
    });
    const ticket = async () => (await api.get<Ticket>(`/api/tickets/${made.ticket}`)).body;
    const sheet = async (which: DaySheet['which']) =>
      (await api.get<DaySheet>(`/api/day?which=${which}`)).body;
    const part = (of: DaySheet, title: RegExp) =>
      of.sections.find((section) => title.test(section.title))?.lines ?? [];
    const promise = (at: Date) =>
      db.query('update tickets set promised_at = ? where number = ?', [at, made.ticket]);
    const inHours = (hours: number) => new Date(Date.now() + hours * 3_600_000);

    test('the opening sheet names what is late first; the closing one what was done, and both the seal', async () => {
      await promise(inHours(-2));
      const opening = await sheet('opening');
      expect(opening.now).toBe(`Call Tamsin Orchardgate: ticket ${made.ticket} is late.`);
      expect(part(opening, /^Promised/)).toMatchObject([
        { name: `${made.ticket} Tamsin Orchardgate`, to: `/tickets/${made.ticket}` },
      ]);
      expect(part(opening, /^Promised/)[0]?.text).toMatch(/LATE, promised for/);
      expect(part(opening, /^The shop itself/).map(({ name }) => name)).toContain(
        'Saved catalogue',
      );
      const { digest } = (await api.get<{ digest: string }>('/api/audit/head')).body;
      expect(part(opening, /^The record/)[0]?.text.replaceAll(' ', '')).toBe(`Seal:${digest}`);

      await promise(inHours(200));
      const closing = await sheet('closing');
      expect(part(closing, /^Promised/)).toEqual([]);
      expect(part(closing, /^Other open tickets/)[0]?.name).toContain(made.ticket);
      expect(part(closing, /^Done today/)).toEqual(
        expect.arrayContaining([expect.objectContaining({ text: 'once' })]),
      );
    });

    test('what failed in the night is there, with what to do', async () => {
      const wrong = { level: 'full', password: 'not the right one' };
      await api.post(`/api/backups/${made.backupId}/proofs`, wrong);
      const { body } = await api.get<Archive>(`/api/archives/${made.archiveId}`);
      await db.query(
        `update operations set state = 'failed', ended_at = now(3), problem = ? where backup_id = ? and kind = 'prove' limit 1`,
        [
          JSON.stringify({
            code: 'rack-full',
            what: 'The rack is full.',
            safe: '.',
            next: 'Make room.',
          }),
          body.backups[0]?.id,
        ],
      );
      const opening = await sheet('opening');
      expect(part(opening, /^Failed/)[0]?.text).toMatch(/The rack is full\. Make room\./);
    });

    test.each(['opening', 'closing'])('the %s sheet is printed', async (which) => {
      const answer = await api.raw(`/api/day/${which}.pdf`);
      expect(answer.headers.get('content-type')).toBe('application/pdf');
      expect(
        Buffer.from(await answer.arrayBuffer())
          .subarray(0, 5)
          .toString(),
      ).toBe('%PDF-');
      expect((await fetch(`${product.address}/api/day/${which}.pdf`)).status).toBe(401);
    });

    test('what is known of a customer is shown and taken out, on record; they are forgotten once nothing is kept', async () => {
      const { id } = (await ticket()).customer;
      const path = `/api/customers/${id}/data`;
      const data = (await api.get<CustomerData>(path)).body;
      expect(data).toMatchObject({
        customer: { name: 'Tamsin Orchardgate', phone: '+44 7700 900219' },
        visits: [{ number: made.ticket, device: { model: 'Arc 7', name: 'Tamsin’s phone' } }],
        backups: [{ racks: ['Alder'] }],
      });
      expect(data.visits[0]?.agreed.length).toBeGreaterThan(0);
      expect(data.record.map(({ what }) => what).join()).toContain('Backup taken');
      const json = await api.raw(`${path}.json`);
      expect(json.headers.get('cache-control')).toBe('no-store');
      expect(((await json.json()) as CustomerData).customer.id).toBe(id);
      const pdf = await api.raw(`${path}.pdf`);
      expect(
        Buffer.from(await pdf.arrayBuffer())
          .subarray(0, 5)
          .toString(),
      ).toBe('%PDF-');
      const said = (await ticket()).history.map(({ what }) => what);
      expect(said).toContain('What is known of the customer was taken out, as json.');

      const forget = () => api.post<CustomerData & { what: string }>(`/api/customers/${id}/forget`);
      expect((await forget()).body).toMatchObject({
        what: `Ticket ${made.ticket} is open. 1 archive of theirs is kept.`,
      });
      // The visit ends, and what was kept is destroyed.
      await db.query('update tickets set closed_at = now(3) where number = ?', [made.ticket]);
      const destroyed = await api.post(`/api/archives/${made.archiveId}/disposals`, {
        ...{ typedTicket: made.ticket, typedWord: 'destroy', reason: 'asked for by the customer' },
      });
      expect(destroyed.status, JSON.stringify(destroyed.body)).toBe(200);
      expect((await api.ended(destroyed.body.id)).state).toBe('done');
      await api.post('/api/account/views', {
        ...{ name: 'Hers', find: 'tamsin orchardgate', sort: 'taken', order: 'desc' },
      });
      const gone = (await forget()).body;
      expect(gone.customer).toMatchObject({ name: 'Name let go', phone: '' });
      expect(gone.destroyed).toHaveLength(1);
      // Nothing in the catalogue has the name any more, but what the record cannot let go of.
      expect(
        (await api.get<{ rows: unknown[] }>('/api/find?text=orchardgate')).body,
      ).not.toMatchObject({
        archives: [{}],
      });
      for (const table of [
        'customers',
        'tickets',
        'devices',
        'archive_rows',
        'disposals',
        'saved_views',
        'audit',
      ]) {
        const [rows] = await db.query(`select * from ${table}`);
        expect(JSON.stringify(rows), table).not.toMatch(/Orchardgate|900219/i);
      }
    });
  });
