import { execFileSync } from 'node:child_process';
import { readdirSync, renameSync } from 'node:fs';
import type { Archive, Disposal, DueRow, Rack } from '@bright-cellar/contract';
import { beforeAll, describe, expect, test } from 'vitest';
import { resultOf } from '../api.js';
import type { Shop } from '../open-shop.js';
import { eventually, OWNED } from '../product.js';

/** An archive that is destroyed: what is here at once, what is away when it is seen, and what can be shown for it. The only one of its shop. */
export const disposal = ({ product, api }: Shop) =>
  describe('an end', () => {
    let [ticket, archiveId] = ['', ''];
    let [here, other] = ['', ''];
    let birch: Rack | undefined;
    beforeAll(async () => {
      ({ ticket, archiveId } = await api.provenBackup(OWNED));
      const racks = (await api.get<Rack[]>('/api/racks')).body;
      [, birch] = racks;
      [here = '', other = ''] = racks.map(({ mounted }) => mounted ?? '');
      for (const { id } of racks) {
        const copied = await api.post(`/api/archives/${archiveId}/copies`, { rackId: id });
        if (copied.status === 200) await api.ended(copied.body.id);
      }
    });

    const archivesIn = (folder: string) =>
      readdirSync(folder).filter((name) => !name.startsWith('.'));
    const keeping = async () =>
      (await api.get<{ due: DueRow[]; held: DueRow[]; disposals: Disposal[] }>('/api/keeping'))
        .body;
    const wanted = (typedTicket = ticket) => ({
      ...{ typedTicket, typedWord: 'destroy', reason: 'the customer asked for it' },
    });
    const dispose = (body: object = wanted()) =>
      api.post(`/api/archives/${archiveId}/disposals`, body);

    describe('a disposal', () => {
      test('is refused while somebody holds the archive, and without its ticket’s number and the word', async () => {
        await api.post(`/api/archives/${archiveId}/hold`, { reason: 'a question is open' });
        expect((await keeping()).held).toMatchObject([{ archiveId }]);
        expect((await dispose()).body).toMatchObject({ code: 'archive-held' });
        expect((await api.send('DELETE', `/api/archives/${archiveId}/hold`)).status).toBe(200);
        for (const wrong of [{ typedTicket: '20990001' }, { typedWord: 'yes' }, { reason: ' ' }]) {
          expect((await dispose({ ...wanted(), ...wrong })).body.code).toBe('input-not-valid');
        }
        expect([archivesIn(here), archivesIn(other)].map(({ length }) => length)).toEqual([1, 1]);
      });

      test('destroys what is here, owes what is away, and destroys that when it is seen', async () => {
        const secrets = () =>
          execFileSync('find', [product.data, '-path', '*/data/keys/*', '-name', '*.age'], {
            encoding: 'utf8',
          });
        expect(secrets()).not.toBe('');
        renameSync(other, `${other}.away`);
        await api.rackOnce(birch?.id, 'away');
        const ended = await api.ended((await dispose()).body.id);
        expect(resultOf(ended, 'dispose')).toMatchObject({ gone: 1, owed: 1 });
        expect(archivesIn(here)).toEqual([]);
        const gone = (await api.get<Archive>(`/api/archives/${archiveId}`)).body;
        expect(gone).toMatchObject({ copies: [], disposal: { doneAt: null } });
        const [owed] = (await keeping()).disposals;
        expect(owed).toMatchObject({ doneAt: null, owedOn: [birch?.name], ticketNumber: ticket });
        const again = await dispose();
        expect(again.status).not.toBe(200);

        renameSync(`${other}.away`, other);
        const done = await eventually(
          'the end of the last copy',
          async () => {
            const [disposal] = (await keeping()).disposals;
            return disposal?.doneAt != null && disposal;
          },
          60_000,
        );
        expect(done.owedOn).toEqual([]);
        // With ordinary tools: nothing of it is anywhere, and no key.
        expect(archivesIn(other)).toEqual([]);
        expect(secrets()).toBe('');
        const left = execFileSync('find', [here, other, '-type', 'f', '-size', '+4k'], {
          encoding: 'utf8',
        });
        expect(left).toBe('');
      });

      test('is shown by a certificate, and nothing rests on what was destroyed', async () => {
        const [disposal] = (await keeping()).disposals;
        const paper = await api.raw(`/api/disposals/${disposal?.id}/certificate.pdf`);
        const bytes = Buffer.from(await paper.arrayBuffer());
        expect(paper.headers.get('content-type')).toBe('application/pdf');
        expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
        const rows = await api.get<{ rows: Archive[] }>(
          '/api/archives?text=&sort=taken&order=desc&after=',
        );
        expect(JSON.stringify(rows.body)).not.toContain(archiveId);
        const erase = await api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' });
        expect(erase.status).not.toBe(200);
        const fresh = await fetch(
          `${product.address}/api/disposals/${disposal?.id}/certificate.pdf`,
        );
        expect(fresh.status).toBe(401);
      });
    });
  });
