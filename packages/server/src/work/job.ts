import type { DeviceLink } from '@bright-cellar/device-link';
import type { OperationResult } from '@bright-cellar/contract';
import type { Database, Transaction } from '../database/connect.js';
import type { HeldPassword } from '../held-password.js';
import type { Log } from '../log.js';
import type { Attendance } from './attend.js';
import type { Progress } from './progress.js';

/** What a piece of long work is given. */
export interface Job<Input> {
  operationId: string;
  startedBy: string;
  deviceId: string | null;
  ticketId: string | null;
  archiveId: string | null;
  backupId: string | null;
  input: Input;
  /** In memory for as long as the work runs, and nowhere else. */
  password: HeldPassword;
  /** Of the package that is taken in, where it is another one. */
  packagePassword: HeldPassword;
  db: Database;
  link: DeviceLink;
  /** Waits for hands on the device, for its cable, and for whoever paused the work. */
  attendance: Attendance;
  progress: Progress;
  /** Threads that it may use, beside what else runs. */
  threads: number;
  /** Aborted when a person asked for a stop, or when this process no longer holds the lease. */
  signal: AbortSignal;
  log: Log;
  /** Replaces what the row keeps of the input. */
  saveInput(input: Input): Promise<void>;
}

/** How a job ended well: its result, and what to write in the same transaction that ends the operation. */
export interface Ending {
  result: OperationResult;
  /** For the audit, with counts and sizes only. */
  what: string;
  record(tx: Transaction): Promise<void>;
}
