/** When something begins or ends, as clocks on the wall show it there. */
export interface WallTime {
  /** `2026-03-28T09:00:00`; a whole day is `2026-03-28`. */
  wall: string;
  /** An IANA time zone, or `UTC`; null where it is wherever one is, and of whole days. */
  zone: string | null;
}

/** An entry of a calendar (RFC 5545, VEVENT). */
export interface CalendarEvent {
  /** The same for an event and for what stands in the place of one of its occurrences. */
  uid: string;
  title: string;
  place: string;
  notes: string;
  start: WallTime;
  /** Null for what has no length. */
  end: WallTime | null;
  /** How it recurs: the value of an RRULE; null where it does not. */
  rule: string | null;
  /** Wall times of further occurrences, told one by one, in the zone of its start. */
  also: string[];
  /** Wall times of occurrences that are left out, in the zone of its start. */
  without: string[];
  /** The occurrence that this stands for; null where it stands for itself. */
  instead: string | null;
  /** Minutes before its start at which it wants to be noticed. */
  alarms: number[];
}
