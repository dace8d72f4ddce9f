import {
  AUDIT_EXPORT_PATH,
  routes,
  type PersonRow,
  type RoleRow,
  type Route,
} from '@bright-cellar/contract';
import { builtInRoles, type Permission } from '@bright-cellar/core';
import { beforeAll, describe, expect, test } from 'vitest';
import { Api } from '../api.js';
import type { Shop } from '../open-shop.js';

/** What each role may do, and who may say so. */
export const roles = ({ product, api: keeper }: Shop) =>
  describe('roles', () => {
    const password = 'lantern moths ferry nine';
    const idOf = async (login: string) =>
      (await keeper.get<PersonRow[]>('/api/people')).body.find((one) => one.login === login)?.id;
    /** Somebody new with a role, signed in. */
    async function somebody(role: string, login = `a-${role}`): Promise<Api> {
      const added = await keeper.post('/api/people', { name: role, login, password, role });
      expect(added.status).toBe(200);
      const api = new Api(product);
      expect((await api.signIn({ login, password })).body.technician?.role).toBe(role);
      return api;
    }

    /** Every route, with ids of nothing. */
    const asked = Object.entries(routes as Record<string, Route>).map(([name, route]) => ({
      name,
      route,
      path: route.path.replaceAll(/:\w+/g, '00000000-0000-4000-8000-000000000000'),
    }));
    /** Too many refused tries of a password are refused as such. */
    const REFUSED = [403, 429];
    /** These end the session that asks. */
    const ends = ['signOut', 'endSessions', 'lockSession'];

    /** A role of the shop’s own. */
    const archivist: Permission[] = ['see', 'copy', 'move', 'people', 'own-account'];
    async function made(name: string, permissions: Permission[]): Promise<string> {
      const { body } = await keeper.post<RoleRow[]>('/api/roles', { name, permissions });
      return body.find((role) => role.name === name)?.id ?? '';
    }

    describe.each([...builtInRoles, { id: '', name: 'Archivist', permissions: archivist }])(
      'a $name',
      ({ id, name: roleName, permissions }) => {
        let api: Api;
        beforeAll(async () => {
          const role = id || (await made(roleName, archivist));
          api = await somebody(role, `a-${roleName.toLowerCase()}`);
        });

        test('is refused what their role may not do, on every route, and nothing else', async () => {
          for (const { name, route, path } of asked) {
            if (route.access === 'anyone' || ends.includes(name)) continue;
            const { status, body } = await api.send<{ next?: string }>(
              route.method,
              path,
              route.method === 'GET' ? undefined : {},
            );
            if (permissions.includes(route.access)) {
              expect(status, `${roleName} ${name}`).not.toBe(403);
            } else {
              expect(REFUSED, `${roleName} ${name}`).toContain(status);
              if (status === 403)
                expect(body.next, name).toMatch(/^Ask one of those who may: keepers/);
            }
          }
          const file = await api.raw(`${AUDIT_EXPORT_PATH}?format=csv`);
          expect(file.status).toBe(permissions.includes('audit') ? 200 : 403);
        });
      },
    );

    test('who says who works here gives nobody more than they have, and takes nothing from who has more', async () => {
      const role = await made('Porter', ['see', 'people', 'own-account']);
      const porter = await somebody(role, 'porter');
      const own = (await idOf('porter')) ?? '';
      const wren = (await idOf('wren')) ?? '';
      const refused = async (answer: ReturnType<Api['send']>) =>
        expect((await answer).body).toMatchObject({ code: 'not-allowed' });
      await refused(porter.send('PUT', `/api/people/${own}`, { name: 'Me', role: 'keeper' }));
      const body = { name: 'New', login: 'newer', password, role: 'technician' };
      await refused(porter.send('POST', '/api/people', body));
      await refused(porter.send('POST', '/api/roles', { name: 'More', permissions: ['erase'] }));
      await refused(
        porter.send('PUT', `/api/roles/${role}`, {
          name: 'Porter',
          permissions: ['escrow', 'see'],
        }),
      );
      await refused(porter.send('POST', `/api/people/${wren}/sign-in`, { password }));
      await refused(porter.send('POST', `/api/people/${wren}/leave`));
      // What they may, they may hand out.
      expect((await porter.post('/api/people', { ...body, role })).status).toBe(200);
    });

    test('a role of the shop’s own is changed, holds from the next press on, and goes when nobody has it', async () => {
      const role = await made('Runner', ['see', 'own-account']);
      const runner = await somebody(role, 'runner');
      expect((await runner.get(routes.audit.path)).status).toBe(403);
      const change = (body: object) => keeper.send<RoleRow[]>('PUT', `/api/roles/${role}`, body);
      await change({ name: 'Reader', permissions: ['audit'] });
      expect((await runner.get(routes.audit.path)).status).toBe(200);
      // Nobody is without what every role has.
      const session = await runner.get<{ may: string[]; roles: RoleRow[] }>('/api/session');
      expect(session.body.may).toEqual(['see', 'audit', 'own-account']);
      expect(session.body.roles.map(({ name }) => name)).toContain('Reader');
      expect((await change({ name: 'keeper', permissions: [] })).body).toMatchObject({
        what: 'There is a role called keeper already.',
      });
      expect((await keeper.send('DELETE', `/api/roles/${role}`)).body).toMatchObject({
        what: 'Somebody works here as Reader.',
      });
      await keeper.post(`/api/people/${await idOf('runner')}/leave`);
      const left = await keeper.send<RoleRow[]>('DELETE', `/api/roles/${role}`);
      expect(left.body.map(({ name }) => name)).not.toContain('Reader');
    });

    test('a role that changes holds from the next press on; who leaves is out at once', async () => {
      const login = 'a-technician';
      const api = new Api(product);
      await api.signIn({ login, password });
      expect((await api.get('/api/people')).status).toBe(403);
      const id = await idOf(login);
      await keeper.send('PUT', `/api/people/${id}`, { name: 'Now a keeper', role: 'keeper' });
      expect((await api.get('/api/people')).status).toBe(200);
      await keeper.post(`/api/people/${id}/leave`);
      expect((await api.get('/api/people')).status).toBe(401);
      expect((await api.signIn({ login, password })).status).toBe(401);
    });
  });
