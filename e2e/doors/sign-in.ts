import type { Account, PersonRow, Session } from '@bright-cellar/contract';
import { Secret, TOTP } from 'otpauth';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { Api } from '../api.js';
import type { Shop } from '../open-shop.js';
import { SIGN_IN } from '../product.js';

/** Signing in: where one is, a locked screen, a PIN at the counter, codes from one's own device. In a shop where nobody else did. */
export const signingIn = ({ product, api, db }: Shop) =>
  describe('signing in', () => {
    const { password } = SIGN_IN;
    const account = async (of = api) => (await of.get<Account>('/api/account')).body;
    const session = async (of: Api) => (await of.get<Partial<Session>>('/api/session')).body;
    const fresh = () => new Api(product);
    let wren = '';
    beforeAll(async () => {
      wren = (await session(api)).technician?.id ?? '';
    });
    /** Whoever comes after signs in as before. */
    afterAll(async () => {
      await api.houseRules({ signIn: { secondFactor: 'may', lockMinutes: '15' } });
      await api.post('/api/account/code/drop', { password });
    });

    describe('where one is signed in', () => {
      test('is listed, this browser first, and ended one by one', async () => {
        const other = await Api.signedIn(product);
        const { sessions } = await account();
        expect(sessions.map(({ current }) => current)).toEqual([true, false]);
        expect(sessions[1]).toMatchObject({ address: '127.0.0.1', locked: false });
        await api.send('DELETE', `/api/account/sessions/${sessions[1]?.id}`);
        expect((await other.get('/api/racks')).status).toBe(401);
        expect((await account()).sessions).toHaveLength(1);
      });

      test('is ended by nobody else, but by who says who works here', async () => {
        const added = await api.post<PersonRow[]>('/api/people', {
          ...{
            name: 'Joss',
            login: 'jay',
            password: 'lantern moths ferry nine',
            role: 'technician',
          },
        });
        const jay = added.body.find(({ login }) => login === 'jay')?.id ?? '';
        const theirs = fresh();
        await theirs.signIn({ login: 'jay', password: 'lantern moths ferry nine' });
        const [own] = (await account()).sessions;
        expect((await theirs.send('DELETE', `/api/account/sessions/${own?.id}`)).status).toBe(404);
        await api.post(`/api/people/${jay}/sign-out`);
        expect((await theirs.get('/api/racks')).status).toBe(401);
      });
    });

    describe('a locked screen', () => {
      test('answers nothing until its holder says who they are, and is the same session then', async () => {
        const own = await Api.signedIn(product);
        await own.post('/api/session/lock');
        for (const path of ['/api/racks', '/api/account', '/api/events', '/api/day/opening.pdf']) {
          const answer = await own.raw(path);
          expect([path, answer.status]).toEqual([path, 401]);
          expect(await answer.json()).toMatchObject({ code: 'session-locked' });
        }
        expect(await session(own)).toMatchObject({ locked: true, technician: { id: wren } });
        const wrong = await own.post('/api/session/unlock', { password: 'another one' });
        expect(wrong.body).toMatchObject({ code: 'sign-in-refused' });
        expect((await own.get('/api/racks')).status).toBe(401);
        expect((await own.post('/api/session/unlock', { password })).status).toBe(200);
        expect((await own.get('/api/racks')).status).toBe(200);
        // One may always leave.
        await own.post('/api/session/lock');
        expect((await own.send('DELETE', '/api/session')).status).toBe(200);
      });

      test('is locked by the server too, where its browser is gone', async () => {
        const own = await Api.signedIn(product);
        await db.query(
          'update sessions set used_at = now(3) - interval 20 minute order by created_at desc limit 1',
        );
        expect(await session(own)).toMatchObject({ locked: true });
        expect((await own.post('/api/session/unlock', { password })).status).toBe(200);
        expect(await session(own)).toMatchObject({ locked: false });
      });
    });

    describe('a PIN at the counter', () => {
      const pin = '493027';
      const takeOver = (of: Api, given = pin, technicianId = wren) =>
        of.post<Partial<Session>>('/api/session/counter', { technicianId, pin: given });

      test('is chosen with the password, and is no sequence', async () => {
        expect(
          (await api.send('PUT', '/api/account/pin', { password, pin: '123456' })).status,
        ).toBe(422);
        const wrong = { password: 'another one', pin };
        expect((await api.send('PUT', '/api/account/pin', wrong)).status).toBe(401);
        const { body } = await api.send<Account>('PUT', '/api/account/pin', { password, pin });
        expect(body).toMatchObject({ hasPin: true });
        const [rows] = await db.query('select pin_hash from technicians where id = ?', [wren]);
        expect(JSON.stringify(rows)).toMatch(/"\$argon2id\$/);
      });

      test('opens only where somebody signed in in full, and ends whoever was there', async () => {
        const stranger = fresh();
        expect((await takeOver(stranger)).body).toMatchObject({
          what: 'Nobody signed in in full on this computer today.',
        });
        expect((await stranger.get('/api/session/counter')).body).toEqual([]);
        const counter = fresh();
        await counter.signIn({ login: 'jay', password: 'lantern moths ferry nine' });
        const before = counter.at(product.address);
        expect((await counter.get('/api/session/counter')).body).toMatchObject([{ id: wren }]);
        expect((await takeOver(counter)).status).toBe(200);
        expect(await session(counter)).toMatchObject({ technician: { id: wren } });
        expect((await before.get('/api/racks')).status).toBe(401);
      });

      test('unlocks one’s own screen; after five wrong ones it opens nothing until its holder signed in', async () => {
        const own = await Api.signedIn(product);
        await own.post('/api/session/lock');
        expect((await own.post('/api/session/unlock', { pin })).status).toBe(200);
        const counter = await Api.signedIn(product);
        const tries = await Promise.all(
          [1, 2, 3, 4, 5, 6].map((n) => takeOver(counter, `77130${n}`)),
        );
        expect(new Set(tries.map(({ status }) => status))).toEqual(new Set([401]));
        expect((await takeOver(counter)).status).toBe(401);
        expect((await fresh().signIn(SIGN_IN)).status).toBe(200);
        expect((await takeOver(counter)).status).toBe(200);
        const said = (await account()).recent.map(({ what }) => what);
        expect(said).toContain('Somebody tried a PIN at the counter, and it was wrong.');
        expect(said).toContain('Took the counter over with a PIN.');
      });
    });

    describe('a code from one’s own device', () => {
      let secret = '';
      const code = (halfMinutesOn = 0) =>
        new TOTP({ secret: Secret.fromBase32(secret) }).generate({
          timestamp: Date.now() + halfMinutesOn * 30_000,
        });

      test('is in force once one was typed, and kept sealed', async () => {
        const offered = await api.post<{ secret: string; address: string; picture: string }>(
          '/api/account/code/offer',
          { password },
        );
        secret = offered.body.secret;
        expect(offered.body.address).toMatch(/^otpauth:\/\/totp\//);
        expect(offered.body.picture).toMatch(/^<svg/);
        expect((await fresh().signIn(SIGN_IN)).status).toBe(200);
        expect((await api.send('PUT', '/api/account/code', { code: '000000' })).status).toBe(401);
        const { body } = await api.send<Account>('PUT', '/api/account/code', { code: code() });
        expect(body).toMatchObject({ hasCode: true });
        const [rows] = await db.query('select * from technicians');
        expect(JSON.stringify(rows)).not.toContain(secret);
      });

      test('is asked for after the password, is good once, and no password says whether it is there', async () => {
        const asked = await fresh().signIn(SIGN_IN);
        expect(asked).toMatchObject({ status: 401, body: { code: 'second-factor' } });
        const wrong = await fresh().signIn({ ...SIGN_IN, password: 'another', code: code(1) });
        expect(wrong.body).toMatchObject({ code: 'sign-in-refused' });
        const next = code(1);
        const both = await Promise.all(
          [1, 2].map(() => fresh().signIn({ ...SIGN_IN, code: next })),
        );
        expect(both.map(({ status }) => status).sort()).toEqual([200, 401]);
        expect((await fresh().signIn({ ...SIGN_IN, code: next })).status).toBe(401);
      });

      test('goes with the password where somebody lost their device, and by one’s own word', async () => {
        expect((await api.post('/api/account/code/drop', { password: 'another' })).status).toBe(
          401,
        );
        const { body } = await api.post<Account>('/api/account/code/drop', { password });
        expect(body).toMatchObject({ hasCode: false });
        expect((await fresh().signIn(SIGN_IN)).status).toBe(200);
      });

      test('where the house asks for it, nothing else is open until there is one', async () => {
        await api.houseRules({ signIn: { secondFactor: 'keepers', lockMinutes: '15' } });
        const keeper = fresh();
        expect((await keeper.signIn(SIGN_IN)).body).toMatchObject({ mustEnrol: true });
        for (const path of ['/api/racks', '/api/events', '/api/day/opening.pdf'])
          expect((await keeper.raw(path)).status).toBe(403);
        expect((await keeper.get('/api/account')).status).toBe(200);
        const technician = fresh();
        await technician.signIn({ login: 'jay', password: 'lantern moths ferry nine' });
        expect((await technician.get('/api/racks')).status).toBe(200);
        const offered = await keeper.post<{ secret: string }>('/api/account/code/offer', {
          password,
        });
        secret = offered.body.secret;
        await keeper.send('PUT', '/api/account/code', { code: code() });
        expect((await keeper.get('/api/racks')).status).toBe(200);
        expect(await session(keeper)).toMatchObject({ mustEnrol: false });
      });
    });

    test('a passkey is for a name, and nothing that was not asked for opens', async () => {
      const own = fresh();
      expect((await own.post('/api/session/passkey/ask')).body).toMatchObject({
        what: 'A passkey is for a name, and this page is open under an address.',
      });
      const named = fresh().at(product.address.replace('127.0.0.1', 'localhost'));
      const asked = await named.post<{ ask: string }>('/api/session/passkey/ask');
      expect(asked.status).toBe(200);
      const answer = { id: 'nothing', rawId: 'nothing', type: 'public-key', response: {} };
      const given = await named.post('/api/session/passkey', { ask: asked.body.ask, answer });
      expect(given.body).toMatchObject({ code: 'sign-in-refused' });
    });
  });
