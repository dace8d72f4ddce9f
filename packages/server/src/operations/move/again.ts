import { Failure } from '@bright-cellar/core';
import { and, eq } from 'drizzle-orm';
import type { Database } from '../../database/connect.js';
import { moveSteps } from '../../database/schema.js';
import { continueOperation, tellOf, type RowOf } from '../../engine/index.js';
import { unitOfWork } from '../../kernel/unit-of-work.js';
import { isOpen, stepsOf } from '../../moves/index.js';
import type { CutShort } from '../cut-short.js';

/** Bytes that are still to be moved; null where nothing is. */
async function kept(db: Database, { id }: RowOf<'move'>): Promise<number | null> {
  const open = (await stepsOf(db, id)).filter(isOpen);
  return open.length === 0 ? null : open.reduce((sum, { bytes }) => sum + bytes, 0);
}

/** A plan that was cut off goes on with the move that it was at, or ends there. */
export const cutMove: CutShort<'move'> = {
  kept,
  async goOn(context, row) {
    if ((await kept(context.db, row)) === null) {
      throw new Failure('not-found', { what: 'Every move of that plan was made.' });
    }
    return continueOperation<'move'>(
      context,
      row.id,
      {
        locks: [{ resource: 'moves', mode: 'exclusive' }],
        deviceId: null,
        input: row.input,
        action: 'move-continued',
        what: 'The move plan goes on.',
      },
      {},
    );
  },
  async giveUp(context, { id }) {
    const open = (await stepsOf(context.db, id)).filter(isOpen);
    // Its target stands, and nobody may take it for the only copy while some of the source is gone.
    if (open.some(({ state }) => state === 'removing')) {
      throw new Failure('archive-in-use', {
        what: 'An archive is just being removed where it was.',
        next: 'Let the plan go on; it can be stopped after.',
      });
    }
    await unitOfWork(context, async (unit) => {
      for (const { step } of open) {
        await unit.tx
          .update(moveSteps)
          .set({ state: 'left', why: 'The plan was given up.' })
          .where(and(eq(moveSteps.operationId, id), eq(moveSteps.step, step)));
      }
      unit.note({
        action: 'move-given-up',
        what: `A move plan was given up, ${open.length} moves before its end.`,
      });
      unit.changed('rack');
      await tellOf(unit, id);
    });
  },
};
