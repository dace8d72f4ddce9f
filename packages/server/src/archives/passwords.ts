import { Failure, type ArchiveId, type RackId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { archives } from '../database/schema.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { copyToChange } from './archives.js';
import { changePasswordOrder, tryPasswordOrder } from './orders.js';
import { mustBeStrong } from '../kernel/strong-password.js';

/** Tries the password before anything else happens, and notes a wrong one. @throws Failure `wrong-password` */
export async function mustOpen(
  context: Context,
  { rackId, folder }: { rackId: RackId; folder: string },
  password: string,
  ticketId: string | null,
): Promise<void> {
  try {
    await context.orders.ask(tryPasswordOrder, { rackId, folder, password });
  } catch (error) {
    if (error instanceof Failure && error.problem.code === 'wrong-password') {
      await noteOnly(context, {
        ticketId,
        action: 'wrong-password',
        what: 'A password was tried that does not open the backup.',
      });
    }
    throw error;
  }
}

/** Gives an archive another password, in every copy that is there. */
export async function changeArchivePassword(
  context: Context,
  archiveId: ArchiveId,
  wanted: { password: string; newPassword: string; passwordHolder: string; reminder: string },
): Promise<void> {
  const { db, actor } = context;
  const [row] = await db.select().from(archives).where(eq(archives.id, archiveId));
  if (!row) throw new Failure('not-found');
  await mustBeStrong(wanted.newPassword);
  const copy = await copyToChange(db, archiveId);
  await mustOpen(context, copy, wanted.password, row.ticketId);
  const { passwordHolder, reminder } = wanted;
  await context.orders.ask(changePasswordOrder, {
    copyId: copy.id,
    password: wanted.password,
    newPassword: wanted.newPassword,
    change: {
      archive: { passwordHolder, reminder },
      audit: {
        technicianId: actor.technicianId,
        ticketId: row.ticketId,
        action: 'password-changed',
        what: 'The password of the archive was changed.',
      },
    },
  });
}
