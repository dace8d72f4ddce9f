import type { WallTime } from './event.js';

/** Something that somebody means to do (RFC 5545, VTODO). */
export interface Task {
  uid: string;
  title: string;
  notes: string;
  /** By when; null for whenever. */
  due: WallTime | null;
  done: boolean;
  /** 1 is the most urgent, 9 the least; 0 where nobody said. */
  priority: number;
  /** How it recurs from when it is due: the value of an RRULE; null where it does not, or is never due. */
  rule: string | null;
  /** Minutes before it is due at which it wants to be noticed. */
  alarms: number[];
}
