import { readFileSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { describe, expect, test } from 'vitest';
import { Api } from '../api.js';
import type { Shop } from '../open-shop.js';
import { JOSS, openOwned, OWNED, PASSWORD, SIGN_IN } from '../product.js';

/** Who is not signed in, what is kept of secrets, and who guesses. Last: after it, this address waits a minute before it may sign in. */
export const secrets = ({ product }: Shop) =>
  describe('secrets', () => {
    describe('who may ask', () => {
      test('nobody who is not signed in sees anything of the shop', async () => {
        const { paths } = (
          await new Api(product).get<{
            paths: Record<string, Record<string, { security: unknown[] }>>;
          }>('/api/openapi.json')
        ).body;
        const protectedRoutes = Object.entries(paths).flatMap(([path, methods]) =>
          Object.entries(methods)
            .filter(([, route]) => route.security.length > 0)
            .map(([method]) => [method.toUpperCase(), path.replace(/\{\w+\}/g, '1')] as const),
        );
        expect(protectedRoutes.length).toBeGreaterThan(15);
        for (const [method, path] of [...protectedRoutes, ['GET', '/api/events'] as const]) {
          const { status, body } = await new Api(product).send(
            method,
            path,
            method === 'GET' ? undefined : {},
          );
          expect([path, status, body.code]).toEqual([path, 401, 'not-signed-in']);
        }
        expect((await new Api(product).get('/api/session')).body).toBeNull();
      });

      test('a change without the CSRF token, or from another page, is refused', async () => {
        const api = await Api.signedIn(product);
        const without = await api.send('DELETE', '/api/session', {}, { 'x-csrf-token': '' });
        expect(without).toMatchObject({ status: 403, body: { code: 'request-not-trusted' } });
        const elsewhere = await api.send(
          'DELETE',
          '/api/session',
          {},
          { origin: 'http://evil.example.com' },
        );
        expect(elsewhere).toMatchObject({ status: 403, body: { code: 'request-not-trusted' } });
        expect((await api.get('/api/bench')).status).toBe(200);
      });

      test('a session that was signed out is worth nothing, here and in its other tabs', async () => {
        const api = await Api.signedIn(product);
        expect((await api.send('DELETE', '/api/session', {})).status).toBe(200);
        expect((await api.get('/api/bench')).status).toBe(401);
      });

      test.each([
        ['two hours after it was last used', 'used_at = used_at - interval 121 minute', true],
        ['not before', 'used_at = used_at - interval 119 minute', false],
        ['twelve hours after it began, however much it is used', 'expires_at = now()', true],
      ])('a session ends by itself: %s', async (_, change, isOver) => {
        const api = await Api.signedIn(product);
        await api.post('/api/tickets', {});
        const db = await mysql.createConnection(product.databaseSetupUrl);
        try {
          const [[life]] = await db.query<mysql.RowDataPacket[]>(
            'select timestampdiff(hour, created_at, expires_at) as hours from sessions order by created_at desc limit 1',
          );
          expect(life?.hours).toBe(12);
          await db.query('update sessions set used_at = coalesce(used_at, created_at)');
          await db.query(`update sessions set ${change} order by created_at desc limit 1`);
        } finally {
          await db.end();
        }
        // One that nobody used for a while is locked before that.
        expect((await api.get('/api/bench')).status).toBe(401);
        expect((await api.get('/api/session')).body).toEqual(isOver ? null : expect.anything());
      });
    });

    describe('what is kept of secrets', () => {
      test('passwords are hashed with Argon2id, sessions are kept as digests, the audit cannot be changed', async () => {
        const db = await mysql.createConnection(product.databaseSetupUrl);
        const [technicians] = await db.query<mysql.RowDataPacket[]>(
          'select password_hash from technicians',
        );
        for (const row of technicians) expect(row.password_hash).toMatch(/^\$argon2id\$/);
        await expect(db.query("update audit set what = 'nothing'")).rejects.toThrow(
          /never changed/,
        );
        await expect(db.query('delete from audit')).rejects.toThrow(/never removed/);
        await db.end();
        // What the product itself runs as has not even the right to try.
        const own = await mysql.createConnection(product.databaseUrl);
        for (const forbidden of [
          "update audit set what = 'nothing'",
          'delete from audit',
          'drop trigger audit_no_update',
          'create table more (id int)',
          "select load_file('/etc/hostname') from mysql.user",
        ]) {
          await expect(own.query(forbidden), forbidden).rejects.toThrow(/denied/);
        }
        await own.end();
      });

      test('nobody else on this machine can look into the data folder', () => {
        for (const name of ['.', 'run', 'logs', 'bench', 'racks']) {
          const { mode } = statSync(join(product.data, name));
          expect([name, (mode & 0o777).toString(8)]).toEqual([name, '700']);
        }
      });

      test('neither the database nor any log knows the password, or the name of a customer’s file', async () => {
        await openOwned(product);
        const db = await mysql.createConnection(product.databaseSetupUrl);
        const api = await Api.signedIn(product);
        await api.provenBackup(OWNED);
        const [tables] = await db.query<mysql.RowDataPacket[]>('show tables');
        let everything = '';
        for (const row of tables) {
          const [rows] = await db.query<mysql.RowDataPacket[]>(
            `select * from \`${String(Object.values(row)[0])}\``,
          );
          everything += JSON.stringify(rows);
        }
        await db.end();
        const logs = join(product.data, 'logs');
        for (const name of readdirSync(logs)) everything += readFileSync(join(logs, name), 'utf8');
        expect(everything).toContain('Tamsin Orchardgate');
        expect(everything).not.toContain(PASSWORD);
        for (const trace of ['.vcf', '.jsonl', 'thread-001', 'passwords/site']) {
          expect(everything).not.toContain(trace);
        }
      });
    });

    describe('what every answer carries', () => {
      test('the session cookie is kept from scripts and from other sites', async () => {
        const response = await fetch(`${product.address}/api/session`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(SIGN_IN),
        });
        const cookie = response.headers.get('set-cookie') ?? '';
        for (const part of ['HttpOnly', 'SameSite=Strict', 'Path=/'])
          expect(cookie).toContain(part);
        expect(response.headers.get('cache-control')).toBe('no-store');
      });

      test('pages may load nothing from elsewhere, nor be framed; the server does not say what it is', async () => {
        for (const path of ['/', '/tickets/26110001', '/api/bench']) {
          const { headers } = await fetch(product.address + path);
          expect(headers.get('content-security-policy')).toMatch(
            /default-src 'self'.*frame-ancestors 'self'/,
          );
          expect(headers.get('x-content-type-options')).toBe('nosniff');
          expect(headers.get('x-powered-by')).toBeNull();
        }
      });

      test.each([
        ['rubbish', '{{{', 422],
        ['far too much', JSON.stringify({ login: 'x'.repeat(100_000), password: 'x' }), 422],
        ['a list', '[]', 422],
      ])('%s in place of a request is a problem, not a crash', async (_, body, status) => {
        const response = await fetch(`${product.address}/api/session`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body,
        });
        expect(response.status).toBe(status);
        expect(((await response.json()) as { code: string }).code).toBe('input-not-valid');
      });

      test('there is no way out of the served folder', async () => {
        for (const path of [
          '/..%2f..%2fpackage.json',
          '/assets/..%2f..%2f..%2fserver%2fdist%2fmain.js',
        ]) {
          const text = await (await fetch(product.address + path)).text();
          expect(text).not.toContain('"workspaces"');
          expect(text).not.toContain('readConfig');
        }
      });
    });

    test('the server is well, and says so', async () => {
      expect(await new Api(product).get('/healthz')).toMatchObject({
        status: 200,
        body: { ok: true },
      });
    });

    test('nobody guesses the password of an archive by starting backups into it', async () => {
      // Of the keeper's tries others here took some.
      const api = await Api.signedIn(product, JOSS);
      const start = (archiveId: string | null) =>
        api.startBackup('26110999', { archiveId, password: 'a guess' });
      const archive = '6f9619ff-8b86-4d01-b42d-00cf4fc964ff';
      for (let i = 0; i < 10; i++) expect((await start(archive)).body.code).toBe('not-found');
      expect(await start(archive)).toMatchObject({ status: 429, body: { code: 'too-many-tries' } });
      // Who begins a new archive guesses nothing, and is not held up.
      expect((await start(null)).body.code).toBe('not-found');
      // Behind every door at which a password could be guessed it is the same ten tries.
      for (const door of [
        `/api/backups/${archive}/proofs`,
        `/api/backups/${archive}/restores`,
        `/api/backups/${archive}/exports`,
        `/api/archives/${archive}/holder`,
        `/api/archives/${archive}/imports`,
        `/api/archives/${archive}/escrow`,
        `/api/operations/${archive}/continue`,
        `/api/operations/${archive}/retry`,
        `/api/schedules/${archive}/arm`,
        '/api/tickets/26110999/further-costs',
        '/api/escrow',
        '/api/account/sign-in',
      ])
        expect([door, (await api.post(door)).status]).toEqual([door, 429]);
    });

    test('nobody finds a customer’s page by trying addresses', async () => {
      const stranger = new Api({ address: product.deskAddress });
      const open = (letter: string) => stranger.get(`/api/desk/${letter.repeat(22)}`);
      for (const letter of 'abcdefghij') expect((await open(letter)).status).toBe(404);
      expect((await open('k')).status).toBe(429);
    });

    // Last: after it, this address waits a minute before it may sign in again.
    test('an unknown name and a wrong password are told apart by nobody, and after ten there is a pause', async () => {
      const unknown = await new Api(product).signIn({ login: 'nobody', password: 'x' });
      const wrong = await new Api(product).signIn({ ...SIGN_IN, password: 'x' });
      expect(unknown).toEqual(wrong);
      expect(wrong).toMatchObject({ status: 401, body: { code: 'sign-in-refused' } });
      let last = wrong;
      for (let i = 0; i < 10; i++)
        last = await new Api(product).signIn({ ...SIGN_IN, password: 'x' });
      expect(last).toMatchObject({ status: 429, body: { code: 'too-many-tries' } });
    });
  });
