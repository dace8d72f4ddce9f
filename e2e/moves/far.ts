import { mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Archive, Rack } from '@bright-cellar/contract';
import { rackIdSchema, type RackId, type RackKind, type RackSite } from '@bright-cellar/core';
import { planMoves } from '@bright-cellar/core/placement';
import { startBox, startObjects } from '@bright-cellar/rack-stand-ins';
import { afterAll, describe, expect, test } from 'vitest';
import type { Shop } from '../open-shop.js';
import { eventually, OWNED, PASSWORD } from '../product.js';

/** A box and an object storage, each with one place for archives; gone when all tests are over. */
export async function openFarRacks() {
  const box = await startBox();
  mkdirSync(join(box.folder, 'archives'));
  const login = { accessKey: 'shop', secretKey: 'what the storage wants to hear' };
  const storage = await startObjects({ bucket: 'cellar', login });
  afterAll(async () => {
    box.stop();
    await storage.stop();
  });
  return { box, storage, login };
}

/** Copies, moves and further backups on a box and in object storage, beside all that goes wrong there. */
export const farAway = (
  { product, api }: Shop,
  { box, storage, login }: Awaited<ReturnType<typeof openFarRacks>>,
) =>
  describe('onto racks that are reached over the network', () => {
    /** Each with what goes wrong with it while it is copied to, and how it is cut off. */
    const far: [RackKind, RackSite, string, () => void, () => void][] = [
      [
        'box',
        {
          ...{ kind: 'sftp', host: box.host, port: box.port, user: box.user, hostKey: box.hostKey },
          ...{ login: 'key', path: join(box.folder, 'archives') },
        },
        box.privateKey,
        () => undefined,
        () => box.cut(),
      ],
      [
        'objects',
        {
          ...{ kind: 'objects', endpoint: storage.address, region: 'here', bucket: 'cellar' },
          ...{ prefix: '', capacity: 5e9, accessKey: login.accessKey },
        },
        login.secretKey,
        () => (storage.faults = { slowMs: 1, failEvery: 11, cutEvery: 17, skewMs: 0 }),
        () => (storage.faults = { slowMs: 1, failEvery: 7, cutEvery: 9, skewMs: 0 }),
      ],
    ];

    describe.each(far)(
      'a rack that is reached over the network: %s',
      (kind, site, secret, trouble, cut) => {
        const name = `Far ${kind}`;
        const archive = async (id: string) => (await api.get<Archive>(`/api/archives/${id}`)).body;
        const rackNamed = async (wanted: string) =>
          (await api.get<Rack[]>('/api/racks')).body.find((rack) => rack.name === wanted);
        const done = async (path: string, body: object) => {
          const started = await api.post(path, body);
          expect(started).toMatchObject({ status: 200 });
          return api.ended(started.body.id);
        };

        test('takes copies, is checked and proven, takes what is moved there, and a further backup then', async () => {
          trouble();
          const rules = { name, note: '', reserve: 0, offPremises: true, kind };
          const added = await api.post('/api/racks', { site, secret, ...rules });
          expect(added).toMatchObject({ status: 200 });
          const rackId = rackIdSchema.parse(added.body.id);
          const { archiveId } = await api.provenBackup(OWNED);
          expect(await done(`/api/archives/${archiveId}/copies`, { rackId })).toMatchObject({
            state: 'done',
          });
          const copyThere = async () =>
            (await archive(archiveId)).copies.find((copy) => copy.rackId === rackId);
          expect(await copyThere()).toMatchObject({ state: 'whole', present: true });
          const check = await done(`/api/copies/${(await copyThere())?.id}/checks`, {});
          expect(check).toMatchObject({ state: 'done' });
          // No backup goes there straight from a device.
          const ticket = await api.openTicket(OWNED);
          const straight = await api.startBackup(ticket, { rackId });
          expect(straight.body).toMatchObject({ code: 'rack-not-mounted' });

          // Another archive moves there, and lies nowhere else.
          const other = await api.provenBackup(OWNED);
          const now = await api.stock();
          const copy = now.copies.find((one) => one.archiveId === other.archiveId);
          if (!copy) throw new Error('no copy');
          const plan = planMoves(now, { kind: 'by-hand' }, [{ copyId: copy.id, rackId }]);
          if ('why' in plan) throw new Error(plan.why);
          expect(await done('/api/moves', { moves: plan.moves })).toMatchObject({ state: 'done' });
          expect((await archive(other.archiveId)).copies).toMatchObject([
            { rackId, state: 'whole' },
          ]);
          const proof = await done(`/api/backups/${other.backupId}/proofs`, {
            ...{ level: 'full', password: PASSWORD },
          });
          expect(proof).toMatchObject({ state: 'done' });
          await product.press(OWNED, { do: 'write-note', text: `once more for ${kind}` });
          const further = await api.startBackup(await api.openTicket(OWNED), {
            archiveId: other.archiveId,
          });
          expect(further).toMatchObject({ status: 200 });
          const more = await api.ended(further.body.id);
          expect(more, JSON.stringify(more.problem)).toMatchObject({ state: 'done' });
          const [newest] = (await archive(other.archiveId)).backups;
          expect(newest?.id).not.toBe(other.backupId);
          const again = await done(`/api/backups/${newest?.id}/proofs`, {
            ...{ level: 'full', password: PASSWORD },
          });
          expect(again).toMatchObject({ state: 'done' });
        });

        test('is cut off and its work killed while an archive moves there and back: it goes on, and is whole on one rack at any moment', async () => {
          trouble();
          const { archiveId, backupId } = await api.provenBackup(OWNED);
          const copies = async () => (await archive(archiveId)).copies;
          const home = (await copies())[0]?.rackId;
          const there = (await rackNamed(name))?.id;
          if (!home || !there) throw new Error('no rack');
          /** Once the work process is there again. */
          const asked = (path: string, body: () => Promise<object>) =>
            eventually('somebody who takes it up', async () => {
              const answer = await api.post(path, await body());
              return answer.status === 200 && answer.body;
            });
          const move = async (rackId: RackId) => {
            const stock = await api.stock();
            const copy = stock.copies.find((one) => one.archiveId === archiveId);
            const plan =
              copy && planMoves(stock, { kind: 'by-hand' }, [{ copyId: copy.id, rackId }]);
            if (!plan || 'why' in plan) throw new Error(plan?.why ?? 'no copy');
            return { moves: plan.moves };
          };
          const kill = () => {
            const pid = product.workPid();
            if (pid !== null) process.kill(pid, 'SIGKILL');
          };
          const outcomes = new Set<string>();
          const rounds = [
            { to: there, after: 150, misfortune: kill },
            { to: home, after: 100, misfortune: cut },
            { to: there, after: 400, misfortune: kill },
          ];
          const isAt = async (rackId: string) => {
            const all = await copies();
            expect(all.some(({ state }) => state === 'whole')).toBe(true);
            return all.length === 1 && all[0]?.rackId === rackId && all[0].state === 'whole';
          };
          for (const { to, after, misfortune } of rounds) {
            trouble();
            const rackId = rackIdSchema.parse(to);
            const begun = await asked('/api/moves', () => move(rackId));
            await sleep(after);
            misfortune();
            let ended = await api.ended(begun.id);
            outcomes.add(ended.state);
            // What was cut off goes on; what a plan left where it was, with its reason, is planned again.
            for (let again = 0; again < 3 && !(await isAt(rackId)); again += 1) {
              const next =
                ended.state === 'done'
                  ? await asked('/api/moves', () => move(rackId))
                  : await asked(`/api/operations/${ended.id}/continue`, async () => ({}));
              ended = await api.ended(next.id);
            }
            expect(await isAt(rackId), JSON.stringify(ended)).toBe(true);
          }
          expect([...outcomes]).toContain('interrupted');
          const proof = await asked(`/api/backups/${backupId}/proofs`, async () => ({
            ...{ level: 'full', password: PASSWORD },
          }));
          expect(await api.ended(proof.id)).toMatchObject({ state: 'done' });
        });

        test('keeps what one signs in with to itself', async () => {
          expect(await rackNamed(name)).toMatchObject({ mounted: null, present: true });
          const words = secret
            .split('\n')
            .filter((line) => line.length > 20 && !line.includes('--'));
          const logs = readdirSync(join(product.data, 'logs')).map((log) =>
            readFileSync(join(product.data, 'logs', log), 'utf8'),
          );
          const shown = JSON.stringify([(await api.get('/api/racks')).body, ...logs]);
          for (const word of [...words, login.secretKey]) expect(shown).not.toContain(word);
        });
      },
    );

    test('a box that ends is away, keeps nobody waiting, and what lies there stays known', async () => {
      box.stop();
      const gone = await eventually('the box to be away', async () => {
        const all = (await api.get<Rack[]>('/api/racks')).body;
        const rack = all.find(({ kind }) => kind === 'box');
        return rack?.present === false && rack;
      });
      expect(gone).toMatchObject({ archives: 3 });
      const began = performance.now();
      await api.stock();
      expect(performance.now() - began).toBeLessThan(10_000);
    });
  });
