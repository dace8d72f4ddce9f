import { expect, test } from 'vitest';
import { openApiDocument } from './openapi.js';
import { routes } from './routes/index.js';

test('the OpenAPI document has every route, with its parameters, and says which need a session', () => {
  const { paths } = openApiDocument();
  const described = Object.values(paths).flatMap((methods) => Object.values(methods));
  expect(described).toHaveLength(Object.keys(routes).length);
  expect(paths['/api/tickets/{number}']?.get).toMatchObject({
    operationId: 'ticket',
    parameters: [{ name: 'number', in: 'path', required: true }],
    security: [{ session: [], csrf: [] }],
  });
  expect(paths['/api/session']?.post).toMatchObject({ security: [] });
});

test('everything but the first visit, signing in, the customer’s own page and what describes the API needs somebody who is signed in', () => {
  const open = Object.entries(routes).filter(([, route]) => route.access === 'anyone');
  expect(open.map(([name]) => name).sort()).toEqual([
    'atThisCounter',
    'beginShop',
    'customerDesk',
    'giveAtDesk',
    'openApi',
    'passkeyAsk',
    'passkeySignIn',
    'session',
    'setUp',
    'signIn',
    'takeOver',
  ]);
});

test('a password never stands in a path or a query', () => {
  for (const route of Object.values(routes)) {
    expect(route.path).not.toMatch(/password/i);
    expect(JSON.stringify(route.query.toJSONSchema())).not.toMatch(/password/i);
  }
});
