import { routes, type PersonRow, type Route } from '@bright-cellar/contract';
import { mayDo, roleIds, type Role } from '@bright-cellar/core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { Api } from './api.js';
import { startTestProduct, type Product } from './product.js';

let product: Product;
let keeper: Api;
beforeAll(async () => {
  product = await startTestProduct({ only: [] });
  keeper = await Api.signedIn(product);
});
afterAll(() => product.stop());

const password = 'lantern moths ferry nine';
const idOf = async (login: string) =>
  (await keeper.get<PersonRow[]>('/api/people')).body.find((one) => one.login === login)?.id;
/** Somebody new with a role, signed in. */
async function somebody(role: Role): Promise<Api> {
  const login = `a-${role}`;
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
const ends = ['signOut', 'endSessions'];

describe.each(roleIds)('a %s', (role) => {
  let api: Api;
  beforeAll(async () => {
    api = await somebody(role);
  });

  test('is refused what their role may not do, on every route, and nothing else', async () => {
    for (const { name, route, path } of asked) {
      if (route.access === 'anyone' || ends.includes(name)) continue;
      const { status, body } = await api.send<{ next?: string }>(
        route.method,
        path,
        route.method === 'GET' ? undefined : {},
      );
      if (mayDo(role, route.access)) {
        expect(status, `${role} ${name}`).not.toBe(403);
      } else {
        expect(REFUSED, `${role} ${name}`).toContain(status);
        if (status === 403) expect(body.next, name).toMatch(/^Ask one of those who may: keepers/);
      }
    }
  });
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
