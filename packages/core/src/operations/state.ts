/** Where a piece of long work is: one value, moved by events only. */
export const operationStates = [
  'ordered', // its row is written, and nobody has taken it up yet
  'running',
  'paused', // it waits for a person to let it go on
  'stopping', // a person asked for its end
  'done',
  'failed',
  'stopped',
  'interrupted',
] as const;
export type OperationState = (typeof operationStates)[number];

export type OperationEvent =
  | 'take' // a work process holds it by a lease
  | 'pause' // a person lets it wait
  | 'go-on' // … and go on
  | 'ask-stop' // a person asked for its end
  | 'finish' // the work says that all of it was done
  | 'fail' // the work met a problem, or could not be ordered
  | 'stop' // the work ended since somebody asked for it
  | 'lose' // nobody holds its lease any more: the process that did it is gone
  | 'continue'; // a person lets it go on from what it left behind

/**
 * ```
 *          take              finish ──► done
 * ordered ─────► running ──   fail  ──► failed       ── continue ──► ordered
 *            pause │ ▲ go-on  stop  ──► stopped      ── continue ──► ordered
 *                  ▼ │        lose  ──► interrupted  ── continue ──► ordered
 *                paused
 * ```
 * `ask-stop` leads from each of the three on the left to `stopping`, which ends like all others; what has ended well by
 * then has ended well. `done` is final. Whether there is something to go on from is for whoever asks for it to find out.
 */
const ends = { finish: 'done', fail: 'failed', stop: 'stopped', lose: 'interrupted' } as const;
const transitions: Record<OperationState, Partial<Record<OperationEvent, OperationState>>> = {
  ordered: { take: 'running', 'ask-stop': 'stopping', ...ends },
  running: { pause: 'paused', 'go-on': 'running', 'ask-stop': 'stopping', ...ends },
  paused: { 'go-on': 'running', pause: 'paused', 'ask-stop': 'stopping', ...ends },
  stopping: { take: 'stopping', 'ask-stop': 'stopping', ...ends },
  done: {},
  failed: { continue: 'ordered' },
  stopped: { continue: 'ordered' },
  interrupted: { continue: 'ordered' },
};

/** The state after an event, or null when that event has no meaning in this state. */
export function afterOperationEvent(
  state: OperationState,
  event: OperationEvent,
): OperationState | null {
  return transitions[state][event] ?? null;
}

/** States in which an event has a meaning. */
export const statesThatTake = (event: OperationEvent): OperationState[] =>
  operationStates.filter((state) => afterOperationEvent(state, event) !== null);

/** Not over: it holds what it works on. */
export const activeStates = operationStates.filter(
  (state) => transitions[state].finish !== undefined,
);

export const isOver = (state: OperationState): boolean => !activeStates.includes(state);

/** A state that is left by whoever is to leave it, or else by its deadline: the event that then happens. Milliseconds. */
export const deadlines: Partial<Record<OperationState, { afterMs: number; then: OperationEvent }>> =
  {
    /** Nobody took the order up: whoever gave it died before they could. */
    ordered: { afterMs: 30_000, then: 'lose' },
    /** A password stays in memory for as long as its work waits; that is not for ever. */
    paused: { afterMs: 30 * 60_000, then: 'ask-stop' },
    /** What does not stop in good time is given up: its row ends, whatever it still does. */
    stopping: { afterMs: 60_000, then: 'stop' },
  };

/** When a state must have been left that began at a moment; null where it may last. */
export function deadlineOf(state: OperationState, since: Date): Date | null {
  const limit = deadlines[state];
  return limit ? new Date(since.getTime() + limit.afterMs) : null;
}
