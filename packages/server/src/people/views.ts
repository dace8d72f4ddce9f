import { randomUUID } from 'node:crypto';
import type { BodyOf, routes, SavedView } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import { and, asc, eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { savedViews } from '../database/schema.js';

/** More would be no help to anybody. */
const MOST = 30;

/** Searches that somebody kept, by their names. */
export async function viewsOf(db: Database, technicianId: string): Promise<SavedView[]> {
  const rows = await db
    .select()
    .from(savedViews)
    .where(eq(savedViews.technicianId, technicianId))
    .orderBy(asc(savedViews.name));
  return rows.map(({ technicianId: _, ...view }) => view);
}

/** Keeps a search; one of the same name gives way to it. @throws Failure `input-not-valid` where there are very many */
export async function saveView(
  db: Database,
  technicianId: string,
  view: BodyOf<typeof routes.saveView>,
): Promise<SavedView[]> {
  const own = await viewsOf(db, technicianId);
  if (own.length >= MOST && !own.some(({ name }) => name === view.name)) {
    throw new Failure('input-not-valid', {
      what: `There are ${MOST} kept views already.`,
      safe: 'None was changed.',
      next: 'Forget one that is not needed any more.',
    });
  }
  await db
    .insert(savedViews)
    .values({ ...view, id: randomUUID(), technicianId })
    .onDuplicateKeyUpdate({ set: view });
  return viewsOf(db, technicianId);
}

/** Forgets one of somebody's own. */
export async function dropView(
  db: Database,
  technicianId: string,
  id: string,
): Promise<SavedView[]> {
  await db
    .delete(savedViews)
    .where(and(eq(savedViews.id, id), eq(savedViews.technicianId, technicianId)));
  return viewsOf(db, technicianId);
}
