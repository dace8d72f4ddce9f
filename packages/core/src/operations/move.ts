import { z } from 'zod';
import { plannedMoveSchema } from '../placement/index.js';
import { byteCountSchema, itemCountSchema } from '../values/index.js';
import { defineOperation, outcome } from './define.js';

/** How far one move of a plan is. `left`: it could not be made, and its source is as it was. */
export const moveStates = ['waiting', 'copied', 'removing', 'done', 'left'] as const;
export type MoveState = (typeof moveStates)[number];
/** Moves that are still to be made, or to be ended. */
export const openMoveStates = ['waiting', 'copied', 'removing'] as const satisfies MoveState[];

/** A plan has so many moves at most. */
const MOVES = 5_000;

export const move = defineOperation({
  kind: 'move',
  name: 'Move',
  start: {
    path: '/moves',
    summary:
      'Carry out a move plan: each archive is copied, read back, recorded, and only then removed where it was.',
    params: z.object({}),
    body: z.object({ moves: z.array(plannedMoveSchema).min(1).max(MOVES) }),
  },
  permission: 'move',
  triesPassword: false,
  about: { device: 'never', archive: 'never', backup: 'never' },
  version: 1,
  /** Its moves, and how far each is, are rows of their own. */
  input: z.object({ moves: itemCountSchema, bytes: byteCountSchema }),
  result: outcome({
    moved: itemCountSchema,
    /** Those that could not be made; why stands with each. */
    left: itemCountSchema,
  }),
  phases: { moving: 'Copying, reading back, removing' },
  firstPhase: 'moving',
  unstoppable: [],
  pausable: ['moving'],
  continues: {
    needsPassword: false,
    left: 'are still to be moved.',
    giveUp: 'Leave the rest where it is',
  },
  leavesBench: false,
  givesWay: true,
  ifCut: {
    safe: 'Every archive has as many copies as before: none was removed before another was read back.',
    next: 'Let it go on: it begins where it was.',
  },
  ifStopped: {
    safe: 'Every archive has as many copies as before: none was removed before another was read back.',
    next: 'Let it go on whenever there is time, or make another plan.',
  },
});
