/** Long work that outlives a request: its kinds, and its states as a table. */
export const operationKinds = [
  'backup',
  'prove',
  'restore',
  'erase',
  'export',
  'import',
  'extract',
] as const;
export type OperationKind = (typeof operationKinds)[number];
export const operationNames: Record<OperationKind, string> = {
  backup: 'Backup',
  prove: 'Proof',
  restore: 'Restore',
  erase: 'Erase',
  export: 'Export',
  import: 'Import',
  extract: 'Taking out',
};

export const operationStates = ['running', 'done', 'failed', 'stopped', 'interrupted'] as const;
export type OperationState = (typeof operationStates)[number];

export type OperationEvent =
  | 'finish' // the work says that all of it was done
  | 'fail' // the work met a problem
  | 'stop' // a person asked for it
  | 'continue' // a person lets a backup that was cut off go on
  | 'lose'; // nobody holds its lease any more: the process that did it is gone

/**
 * ```
 *            finish ──► done
 * running ──  fail  ──► failed       ── continue ──► running
 *             stop  ──► stopped      ── continue ──► running
 *             lose  ──► interrupted  ── continue ──► running
 * ```
 * `done` is final. Whether there is something to go on from is for whoever asks for it to find out.
 */
const transitions: Record<OperationState, Partial<Record<OperationEvent, OperationState>>> = {
  running: { finish: 'done', fail: 'failed', stop: 'stopped', lose: 'interrupted' },
  done: {},
  failed: { continue: 'running' },
  stopped: { continue: 'running' },
  interrupted: { continue: 'running' },
};

/** The state after an event, or null when that event has no meaning in this state. */
export function afterOperationEvent(
  state: OperationState,
  event: OperationEvent,
): OperationState | null {
  return transitions[state][event] ?? null;
}

export function isOver(state: OperationState): boolean {
  return state !== 'running';
}

/** The phases of each kind of work, in order, with the words that screens use for them. */
export const operationPhases = {
  backup: {
    listing: 'Comparing with what is kept',
    taking: 'Taking items',
    reviewing: 'Reading again what changed meanwhile',
    committing: 'Making it durable',
  },
  prove: {
    opening: 'Opening with the password',
    checking: 'Checking stored bytes',
    reading: 'Reading items back',
  },
  export: { opening: 'Opening with the password', exporting: 'Writing the package' },
  import: { opening: 'Opening with the password', importing: 'Taking the package in' },
  restore: {
    opening: 'Opening with the password',
    sending: 'First pass: sending',
    installing: 'Second pass: the device installs',
    comparing: 'Comparing with the backup',
  },
  extract: { taking: 'Taking it from the device', writing: 'Writing the files' },
  erase: { checking: 'Looking at its backup once more', erasing: 'The device erases itself' },
} as const satisfies Record<OperationKind, Record<string, string>>;

export function phaseName(kind: OperationKind, phase: string): string {
  return (operationPhases[kind] as Record<string, string>)[phase] ?? phase;
}
