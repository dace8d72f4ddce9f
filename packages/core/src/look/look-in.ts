import { z } from 'zod';

/** Why a look-in is over, in words for the record. */
export const lookInEndings = {
  closed: 'closed by whoever looked',
  idle: 'closed by itself: nobody read on',
  ticket: 'closed with its ticket',
  'signed-out': 'closed with the sign-in of whoever looked',
  agreement: 'closed: the customer took the agreement back',
  stopped: 'closed: the program ended',
} as const;
export type LookInEnding = keyof typeof lookInEndings;

/** After how many minutes in which nobody read on a look-in closes itself. */
export const lookIdleTimes = ['2', '5', '10', '15'] as const;
export const lookIdleNames: Readonly<Record<(typeof lookIdleTimes)[number], string>> = {
  2: 'After 2 minutes',
  5: 'After 5 minutes',
  10: 'After 10 minutes',
  15: 'After a quarter of an hour',
};

/** How backups are looked into here. */
export const lookingRulesSchema = z.object({ idleMinutes: z.enum(lookIdleTimes) });
export const usualLooking: z.infer<typeof lookingRulesSchema> = { idleMinutes: '5' };
