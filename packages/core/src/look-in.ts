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

/** One in which nobody read on for so long closes itself. */
export const LOOK_IN_IDLE_MS = 5 * 60_000;
