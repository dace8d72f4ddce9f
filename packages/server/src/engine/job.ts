import type { DeviceLink } from '@bright-cellar/device-link';
import type {
  Lock,
  OperationInput,
  OperationKind,
  OperationReferences,
  OperationResult,
} from '@bright-cellar/core';
import type { Picked } from '@bright-cellar/core/crossing';
import type { Database } from '../database/connect.js';
import type { HeldPassword } from '../kernel/held-password.js';
import type { Log } from '../log.js';
import type { Acting, Unit } from '../kernel/unit-of-work.js';
import type { DeviceSession } from './device-session.js';
import type { Progress } from './progress.js';
import type { RowOf } from './rows.js';

/** What a piece of long work is given. */
export type Job<Kind extends OperationKind> = OperationReferences<Kind> & Means<Kind>;

interface Means<Kind extends OperationKind> {
  operationId: string;
  /** The program, in the name of whoever started it. */
  acting: Acting;
  startedBy: string;
  ticketId: string | null;
  input: OperationInput<Kind>;
  /** In memory for as long as the work runs, and nowhere else. */
  password: HeldPassword;
  /** Of the package that is taken in, where it is another one. */
  packagePassword: HeldPassword;
  /** Path of a folder of this computer, outside the racks, that the work was given: it may say whose it is, and is held as passwords are. */
  fromFolder: HeldPassword;
  db: Database;
  link: DeviceLink;
  /** Waits for hands on the device, for its cable, and for whoever paused the work. */
  session: DeviceSession;
  progress: Progress<Kind>;
  /** What somebody has in hand in a look-in. @throws Failure `look-in-over` */
  inHand(lookIn: string): Promise<Picked>;
  /** Waits while other work reads or writes a device: for what can wait, before each of its pieces. */
  giveWay(): Promise<void>;
  /**
   * Does something while it has more locks than it began with.
   * @throws Failure `archive-in-use` at once where somebody else has one beside which they cannot be had
   */
  holding<T>(locks: readonly Lock[], work: () => Promise<T>): Promise<T>;
  /** Threads that it may use, beside what else runs. */
  threads: number;
  /** Aborted when a person asked for a stop, or when this process no longer holds the lease. */
  signal: AbortSignal;
  log: Log;
  /** Replaces what the row keeps of the input. */
  saveInput(input: OperationInput<Kind>): Promise<void>;
}

/** How a job ended well: its result, and what to write in the same unit of work that ends the operation. */
export interface Ending<Kind extends OperationKind = OperationKind> {
  result: OperationResult<Kind>;
  /** For the audit, with counts and sizes only. */
  what: string;
  /** Items that failed and can be tried again by themselves. */
  retryable?: number;
  record?(unit: Unit): Promise<void>;
}

/** What is left of work that was cut off, and whoever finds out. */
export interface Remains {
  db: Database;
  link: DeviceLink;
}

/** How one kind of work is done, and what becomes of it when it is cut off. */
export interface Run<Kind extends OperationKind> {
  run(job: Job<Kind>): Promise<Ending<Kind>>;
  /**
   * How it ended well although that was never recorded: all of it was decided on its medium. Null where it was not.
   * @throws Failure where nobody can tell now
   */
  recover?(row: RowOf<Kind>, remains: Remains): Promise<Ending<Kind> | null>;
  /** Whatever still waits for it is told that it is over. */
  abandon?(row: RowOf<Kind>, remains: Remains): Promise<void>;
}

/** Who does which kind of work: one of each, or it does not compile. */
export type Runs = { [Kind in OperationKind]: () => Promise<Run<Kind>> };
