import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Archive, MoveStep, Operation, Rack } from '@bright-cellar/contract';
import { rackIdSchema } from '@bright-cellar/core';
import { planMoves, type MovePlan, type Wish } from '@bright-cellar/core/placement';
import { beforeAll, describe, expect, test } from 'vitest';
import { patience } from '../../scripts/lib/processes.mjs';
import { resultOf } from '../api.js';
import type { Shop } from '../open-shop.js';
import { eventually, OWNED, PASSWORD } from '../product.js';

/** Archives that move between racks of this computer, in a shop that has no others. */
export const betweenFolders = ({ product, api }: Shop) =>
  describe('from folder to folder', () => {
    /** A process that is killed again and again is started again at once. */
    patience.mostMs = patience.firstMs;
    /** How often it is killed here; `npm run faults` kills it fifty times. */
    const KILLS = Number(process.env.MOVE_KILLS ?? 5);

    const archiveIds: string[] = [];
    let first = '';
    beforeAll(async () => {
      for (const text of ['one', 'two', 'three']) {
        await product.press(OWNED, { do: 'write-note', text });
        archiveIds.push((await api.provenBackup(OWNED)).archiveId);
      }
      [first = ''] = archiveIds;
    });

    const racks = async () => (await api.get<Rack[]>('/api/racks')).body;
    const rackNamed = async (name: string) => {
      const rack = (await racks()).find((one) => one.name === name);
      if (!rack) throw new Error(`no rack ${name}`);
      return { ...rack, id: rackIdSchema.parse(rack.id), mounted: rack.mounted ?? '' };
    };
    const archive = async (id: string) => (await api.get<Archive>(`/api/archives/${id}`)).body;
    const steps = async (id: string) => (await api.get<MoveStep[]>(`/api/moves/${id}/steps`)).body;
    const archivesIn = (folder: string) =>
      readdirSync(folder).filter((name) => !name.startsWith('.'));
    const isWhole = (folder: string) => {
      try {
        execFileSync('sha512sum', ['-c', '--quiet', '--status', 'manifest-sha512.txt'], {
          ...{ cwd: folder, stdio: 'ignore' },
        });
        return true;
      } catch {
        return false;
      }
    };

    async function plan(wish: Wish): Promise<MovePlan> {
      const found = planMoves(await api.stock(), wish);
      if ('why' in found) throw new Error(found.why);
      return found;
    }
    const begin = (moves: MovePlan['moves']) => api.post('/api/moves', { moves });
    const carryOut = async (wish: Wish) => {
      const started = await begin((await plan(wish)).moves);
      expect(started.status).toBe(200);
      return api.ended(started.body.id);
    };

    describe('a move plan', () => {
      test('moves each archive: read back where it lies now, and gone where it was', async () => {
        const [alder, birch] = [await rackNamed('Alder'), await rackNamed('Birch')];
        const [full, empty] =
          archivesIn(alder.mounted).length === 3 ? [alder, birch] : [birch, alder];
        const done = await carryOut({ kind: 'empty', rackId: full.id });
        expect(resultOf(done, 'move')).toMatchObject({ moved: 3, left: 0 });
        expect((await steps(done.id)).map(({ state, to }) => [state, to])).toEqual(
          archiveIds.map(() => ['done', empty.name]),
        );
        expect(archivesIn(full.mounted)).toEqual([]);
        const there = archivesIn(empty.mounted);
        expect(there.map((name) => isWhole(join(empty.mounted, name)))).toEqual([true, true, true]);
        for (const id of archiveIds) {
          const { copies, backups, provenAt } = await archive(id);
          expect(copies).toMatchObject([
            { rackName: empty.name, present: true, state: 'whole', checkedLevel: 'bytes' },
          ]);
          // What was proven was proven of the copy that is gone.
          expect(provenAt).toBeNull();
          expect(backups[0]?.proofs).toMatchObject([
            { level: 'full', outcome: 'whole', gone: true },
          ]);
        }
        expect((await rackNamed(full.name)).archives).toBe(0);
        expect((await rackNamed(empty.name)).archives).toBe(3);
      });

      test('does not let an erase rest on what was proven where the archive was', async () => {
        const erase = await api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' });
        expect(erase.body.code).toBe('not-proven');
      });

      test('that was made on what was there before is refused, and nothing moves', async () => {
        const [alder, birch] = [await rackNamed('Alder'), await rackNamed('Birch')];
        const from = alder.archives === 3 ? alder : birch;
        const { moves } = await plan({ kind: 'empty', rackId: from.id });
        const wrong = moves.map((move) => ({ ...move, from: move.to, to: move.from }));
        const refused = await begin(wrong);
        expect(refused.body).toMatchObject({ code: 'archive-changed', safe: 'Nothing was moved.' });
        expect((await rackNamed(from.name)).archives).toBe(3);
      });

      test('waits for a drive that is away, and goes on by itself when it is seen', async () => {
        const [alder, birch] = [await rackNamed('Alder'), await rackNamed('Birch')];
        const from = alder.archives === 3 ? alder : birch;
        const to = from === alder ? birch : alder;
        const { moves } = await plan({ kind: 'empty', rackId: from.id });
        renameSync(to.mounted, `${to.mounted}.away`);
        const started = await begin(moves);
        const waits = await eventually('a plan that waits', async () => {
          const { body } = await api.get<Operation>(`/api/operations/${started.body.id}`);
          return body.needs !== null && body;
        });
        expect(waits.state).toBe('running');
        expect(waits.needs).toContain(to.name);
        expect(archivesIn(from.mounted)).toHaveLength(3);
        renameSync(`${to.mounted}.away`, to.mounted);
        expect(resultOf(await api.ended(started.body.id), 'move').moved).toBe(3);
      });

      test('leaves what somebody works on alone until they are done', async () => {
        const [alder, birch] = [await rackNamed('Alder'), await rackNamed('Birch')];
        const from = alder.archives === 3 ? alder : birch;
        const { backups } = await archive(first);
        const ticket = await api.openTicket(OWNED);
        const further = await api.startBackup(ticket, { archiveId: first });
        await api.post(`/api/operations/${further.body.id}/pause`, { paused: true });
        const { moves } = await plan({ kind: 'empty', rackId: from.id });
        const started = await begin(moves.filter(({ archiveId }) => archiveId === first));
        await sleep(1500);
        const meanwhile = await api.get<Operation>(`/api/operations/${started.body.id}`);
        expect(meanwhile.body).toMatchObject({ state: 'running' });
        await api.post(`/api/operations/${further.body.id}/pause`, { paused: false });
        const grown = await api.ended(further.body.id);
        const moved = await api.ended(started.body.id);
        expect(moved.state).toBe('done');
        // What came meanwhile went with it.
        const now = await archive(first);
        expect(now.backups).toHaveLength(backups.length + (grown.state === 'done' ? 1 : 0));
        expect(now.copies).toMatchObject([{ isNewest: true, present: true }]);
        const back = await plan({ kind: 'together', deviceId: await stockDevice() });
        const together = await begin(back.moves);
        if (together.status === 200) await api.ended(together.body.id);
      });

      const stockDevice = async () => {
        const { archives } = await api.stock();
        const { deviceId } = archives.find(({ id }) => String(id) === first) ?? {};
        if (!deviceId) throw new Error('no device');
        return deviceId;
      };

      test('ends when its target is full, says so, and goes on once there is room', async () => {
        const drive = join(product.data, 'drives/small');
        mkdirSync(drive);
        execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', drive]);
        try {
          const added = await api.post<Rack>('/api/racks', {
            ...{ site: { kind: 'folder', path: drive }, secret: '' },
            ...{ name: 'Rowan', kind: 'drive', note: '', reserve: 0, offPremises: false },
          });
          expect(added.status).toBe(200);
          const { moves } = await plan({
            kind: 'older',
            before: '2099-01-01T00:00:00.000Z',
            rackId: rackIdSchema.parse(added.body.id),
          });
          // It stands still while a device is read: meanwhile somebody else fills the drive.
          await product.press(OWNED, { do: 'write-note', text: 'four' });
          await product.press(OWNED, { do: 'faults', faults: { rate: 500_000 } });
          const slow = (await api.startBackup(await api.openTicket(OWNED))).body;
          await eventually('a device that is read', async () => {
            const { body } = await api.get<Operation>(`/api/operations/${slow.id}`);
            return body.doneBytes > 0;
          });
          const started = await begin(moves);
          const filler = join(drive, 'filler');
          execFileSync('sh', [
            '-c',
            `head -c 80000000 /dev/zero > '${filler}' 2>/dev/null || true`,
          ]);
          await product.press(OWNED, { do: 'faults', faults: { rate: null } });
          archiveIds.push((await api.ended(slow.id)).archiveId ?? '');
          const ended = await api.ended(started.body.id);
          expect(ended.problem).toMatchObject({ code: 'rack-full' });
          expect(ended.keptBytes ?? 0).toBeGreaterThan(0);
          execFileSync('rm', [filler]);
          const again = await api.post(`/api/operations/${ended.id}/continue`, {});
          expect(again.status).toBe(200);
          expect(resultOf(await api.ended(ended.id), 'move')).toMatchObject({ moved: 3, left: 0 });
          expect(archivesIn(drive).filter((name) => isWhole(join(drive, name)))).toHaveLength(3);
          const back = await carryOut({ kind: 'empty', rackId: rackIdSchema.parse(added.body.id) });
          expect(resultOf(back, 'move').left).toBe(0);
        } finally {
          execFileSync('umount', ['-l', drive]);
        }
      });

      test(
        `killed ${KILLS} times at any moment, it goes on from there, and no archive ever has fewer whole copies than one`,
        { timeout: 600_000 + KILLS * 20_000 },
        async () => {
          const [alder, birch] = [await rackNamed('Alder'), await rackNamed('Birch')];
          const folders = [alder.mounted, birch.mounted];
          const wholeCopies = () =>
            folders.flatMap((folder) =>
              archivesIn(folder).filter((name) => isWhole(join(folder, name))),
            ).length;
          /** Copies that are said to be whole, and proofs that are said to stand, of what is not there. */
          const saidOfNothing = async () => {
            const said: string[] = [];
            for (const id of archiveIds) {
              const { copies, backups } = await archive(id);
              const standing = new Set(
                backups.flatMap(({ proofs }) =>
                  proofs.flatMap((p) => (p.current ? [p.copyId] : [])),
                ),
              );
              for (const { id: copyId, rackName, folder, state } of copies) {
                if (state !== 'whole' && !standing.has(copyId)) continue;
                const rack = rackName === 'Alder' ? alder : birch;
                if (!isWhole(join(rack.mounted, folder))) said.push(`${folder} on ${rackName}`);
              }
            }
            return said;
          };
          const outcomes = new Set<string>();
          let kills = 0;
          let seed = 4680;
          const random = (below: number) => (seed = (seed * 48_271) % 2_147_483_647) % below;
          /** Once the work process is there again. */
          const asked = (path: string, body: () => Promise<object>) =>
            eventually('somebody who takes it up', async () => {
              const answer = await api.post(path, await body());
              return answer.status === 200 && answer.body;
            });
          const emptied = async () => {
            const from = (await rackNamed('Alder')).archives > 0 ? alder : birch;
            return { moves: (await plan({ kind: 'empty', rackId: from.id })).moves };
          };
          const next = (operation: Operation | null) =>
            operation?.state === 'interrupted'
              ? asked(`/api/operations/${operation.id}/continue`, async () => ({}))
              : asked('/api/moves', emptied);
          let operation: Operation | null = null;
          while (kills < KILLS) {
            const started: Operation = await next(operation);
            await sleep(random(250));
            const pid = product.workPid();
            if (pid !== null) process.kill(pid, 'SIGKILL');
            kills += 1;
            expect(wholeCopies(), `after kill ${kills}`).toBeGreaterThanOrEqual(archiveIds.length);
            operation = await api.ended(started.id);
            outcomes.add(operation.state);
            expect(await saidOfNothing(), `after kill ${kills}`).toEqual([]);
          }
          expect(outcomes).toContain('interrupted');
          while (operation?.state === 'interrupted') {
            operation = await api.ended((await next(operation)).id);
          }
          expect(operation?.state).toBe('done');
          for (const id of archiveIds) {
            const { copies } = await archive(id);
            expect(copies).toMatchObject([{ present: true, state: 'whole' }]);
            const [copy] = copies;
            const folder = copy?.rackName === 'Alder' ? alder.mounted : birch.mounted;
            expect(isWhole(join(folder, copy?.folder ?? ''))).toBe(true);
          }
          // Nothing of what was cut off is left lying about.
          expect(wholeCopies()).toBe(archiveIds.length);
          for (const folder of folders) {
            const hidden = readdirSync(folder).filter((name) =>
              /^\.(unfinished|removed)-/.test(name),
            );
            expect(hidden).toEqual([]);
          }
          const [newest] = (await archive(first)).backups;
          const proof = await asked(`/api/backups/${newest?.id}/proofs`, async () => ({
            ...{ level: 'full', password: PASSWORD },
          }));
          expect((await api.ended(proof.id)).state).toBe('done');
        },
      );
    });
  });
