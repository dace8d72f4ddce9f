import { auditActions } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { onRecord, promisedBy } from './on-record.js';
import { routes } from './routes/index.js';

const named = Object.entries(routes);

test('every route that is not just read says what it leaves on record, or why it leaves nothing', () => {
  const silent = named.filter(([, route]) => route.method !== 'GET' && !onRecord.has(route));
  expect(silent.map(([name]) => name)).toEqual([]);
  for (const [name, route] of named) {
    const leaves = onRecord.get(route);
    if (leaves && 'none' in leaves) expect(leaves.none.length, name).toBeGreaterThan(10);
  }
});

test('what is only read leaves nothing, and nothing goes on record that nobody knows', () => {
  for (const [name, route] of named) {
    if (route.method === 'GET') expect(onRecord.has(route), name).toBe(false);
  }
  for (const [, route] of named) {
    for (const action of promisedBy(route)) expect(auditActions).toContain(action);
  }
});
