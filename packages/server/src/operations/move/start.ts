import { Failure, formatBytes, formatCount } from '@bright-cellar/core';
import { judgeMoves } from '@bright-cellar/core/placement';
import { moveSteps } from '../../database/schema.js';
import { startOperation } from '../../engine/index.js';
import { lyingOf } from '../../moves/index.js';
import type { Start } from '../start.js';

export const startMove: Start<'move'> = async (context, _, { moves }) => {
  const archiveIds = [...new Set(moves.map(({ archiveId }) => archiveId))];
  const wrong = judgeMoves(await lyingOf(context.db, archiveIds), moves);
  if (wrong !== null) {
    throw new Failure('archive-changed', {
      what: `${wrong} The plan was made on what was there before.`,
      safe: 'Nothing was moved.',
      next: 'Make the plan anew.',
    });
  }
  const bytes = moves.reduce((sum, move) => sum + move.bytes, 0);
  return startOperation(
    context,
    {
      kind: 'move',
      locks: [{ resource: 'moves', mode: 'exclusive' }],
      ...{ deviceId: null, archiveId: null, backupId: null },
      ...{ ticketId: null, ticketNumber: null, deviceName: null },
      what: `Move plan started: ${formatCount(moves.length)} moves, ${formatBytes(bytes)}.`,
      input: { moves: moves.length, bytes },
      alongside: async ({ tx }, operationId) => {
        await tx.insert(moveSteps).values(
          moves.map(({ archiveId, from, to, detour, bytes: size }, step) => ({
            ...{ operationId, step, archiveId, fromRackId: from, toRackId: to, detour },
            ...{ bytes: size, state: 'waiting' as const },
          })),
        );
      },
    },
    {},
  );
};
