import { expect, test } from 'vitest';
import { testCatalogue } from '../testing/catalogue.js';
import { addTechnician } from './technicians.js';
import { dropView, saveView, viewsOf } from './views.js';

const { db, actor } = await testCatalogue();
const view = { name: 'spring', find: 'spring 2026', sort: 'taken', order: 'desc' } as const;

test('a search is kept for whoever kept it, changed under its name, and forgotten by them alone', async () => {
  const joss = await addTechnician(db, {
    login: 'joss',
    name: 'Joss',
    password: 'four words here now',
    role: 'technician',
  });
  const { technicianId } = actor;
  expect(await saveView(db, technicianId, view)).toMatchObject([view]);
  const changed = { ...view, sort: 'stored' as const };
  const [kept] = await saveView(db, technicianId, changed);
  expect(await viewsOf(db, technicianId)).toMatchObject([changed]);
  expect(await viewsOf(db, joss)).toEqual([]);
  await dropView(db, joss, kept?.id ?? '');
  expect(await viewsOf(db, technicianId)).toHaveLength(1);
  expect(await dropView(db, technicianId, kept?.id ?? '')).toEqual([]);
});
