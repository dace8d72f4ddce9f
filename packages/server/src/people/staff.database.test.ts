import { permissionIds, problemOf } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { testCatalogue } from '../testing/catalogue.js';
import type { Context } from '../shop.js';
import { addPerson, changePerson, givePassword, leave, listPeople } from './staff.js';
import { addTechnician, DECOY, hashOf, verifyTechnician } from './technicians.js';

const { db, acting, actor } = await testCatalogue();
const keeper = { ...actor, may: permissionIds };
const context = { ...acting, actor: keeper, db } as unknown as Context;
const password = 'lantern moths ferry nine';
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: unknown) => problemOf(error).code,
  );
const personCalled = async (login: string) => {
  const found = (await listPeople(db)).find((person) => person.login === login);
  if (!found) throw new Error(login);
  return found;
};

test('somebody works here from now on, as something else, and no longer', async () => {
  const joss = { name: 'Joss Kelholt', login: 'joss', password, role: 'trainee' } as const;
  await addPerson(context, joss);
  expect(await codeOf(addPerson(context, { ...joss, name: 'Another' }))).toBe('input-not-valid');
  expect(await codeOf(addPerson(context, { ...joss, login: 'x1', password: '1234' }))).toBe(
    'weak-password',
  );
  expect(await verifyTechnician(db, 'JOSS', password)).toMatchObject({ role: 'trainee' });
  const { id } = await personCalled('joss');
  await changePerson(context, id, { name: 'Joss K.', role: 'technician' });
  expect(await personCalled('joss')).toMatchObject({ name: 'Joss K.', role: 'technician' });

  const another = 'copper boats under snow';
  await givePassword(context, id, another);
  expect(await codeOf(verifyTechnician(db, 'joss', password))).toBe('sign-in-refused');
  expect((await verifyTechnician(db, 'joss', another)).id).toBe(id);
  expect(await codeOf(givePassword(context, id, '1234'))).toBe('weak-password');

  await leave(context, id);
  expect((await personCalled('joss')).leftAt).not.toBeNull();
  expect(await codeOf(verifyTechnician(db, 'joss', password))).toBe('sign-in-refused');
  expect(await codeOf(leave(context, id))).toBe('not-found');
  // Their name to sign in with stays theirs: what they did is on record under it.
  expect(await codeOf(addPerson(context, joss))).toBe('input-not-valid');
});

test('a shop is always kept by somebody, also where two keepers let each other go at once', async () => {
  for (const { id, role, leftAt } of await listPeople(db)) {
    if (role === 'keeper' && leftAt === null) {
      await changePerson(context, id, { name: 'Before', role: 'technician' }).catch(() => null);
    }
  }
  const kept = () =>
    listPeople(db).then((all) => all.filter((p) => p.role === 'keeper' && p.leftAt === null));
  expect(await kept()).toHaveLength(1);
  const [only] = await kept();
  const id = only?.id ?? '';
  expect(await codeOf(leave(context, id))).toBe('input-not-valid');
  expect(await codeOf(changePerson(context, id, { name: 'x', role: 'trainee' }))).toBe(
    'input-not-valid',
  );
  const second = await addTechnician(db, {
    name: 'Second',
    login: 'second',
    password,
    role: 'keeper',
  });
  const both = await Promise.all([codeOf(leave(context, id)), codeOf(leave(context, second))]);
  expect(both.sort()).toEqual(['done', 'input-not-valid']);
  expect(await kept()).toHaveLength(1);
});

test('a name that nobody has takes as much work as one that somebody has', async () => {
  const work = (hash: string) => hash.split('$').slice(0, 4);
  expect(work(DECOY)).toEqual(work(await hashOf(password)));
  expect(await codeOf(verifyTechnician(db, 'nobody', password))).toBe('sign-in-refused');
});
