import { TZDate } from '@date-fns/tz';
import { z } from 'zod';

/** Regular backups: when the next is due, whether it was missed, and when nobody wants one. */
export const scheduleRules = ['weekly', 'fortnightly', 'on-connect'] as const;
export type ScheduleRule = (typeof scheduleRules)[number];

export const scheduleRuleNames: Record<ScheduleRule, string> = {
  weekly: 'Every week',
  fortnightly: 'Every two weeks',
  'on-connect': 'Whenever it is connected and has changed',
};

const minuteOfDay = z.int().min(0).max(1439);
export const scheduleSchema = z.object({
  rule: z.enum(scheduleRules),
  /** 0 is Sunday; looked at where the rule has a day. */
  weekday: z.int().min(0).max(6),
  /** Shop time. */
  at: minuteOfDay,
  /** No backup starts in these minutes of a day, shop time; may run over midnight. Null for none. */
  quiet: z.object({ from: minuteOfDay, to: minuteOfDay }).nullable(),
  /** A backup that was missed is taken when the device comes next, not only on its next day. */
  catchUp: z.boolean(),
  /** It may be taken over the shop network too. */
  overNetwork: z.boolean(),
});
export type Schedule = z.infer<typeof scheduleSchema>;

/** Where the shop's clock hangs: summer and winter time go with the place, not with an offset. */
export interface ShopClock {
  /** IANA time zone, as `Etc/UTC`. */
  zone: string;
}

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;
const DAYS: Record<Exclude<ScheduleRule, 'on-connect'>, number> = { weekly: 7, fortnightly: 14 };
/** A due backup that was not taken within a day was missed. */
const MISSED_AFTER = DAY;

/**
 * The first moment after `since` that the rule names; null where the device decides.
 * @param since when it was last taken, or when the schedule began
 */
export function nextDue(schedule: Schedule, since: Date, { zone }: ShopClock): Date | null {
  const { rule, weekday, at } = schedule;
  if (rule === 'on-connect') return null;
  const today = new TZDate(since.getTime(), zone);
  const ahead = (weekday - today.getDay() + 7) % 7;
  // By the calendar: a day on which the clock is changed is not 24 hours long.
  const dayIn = (days: number) =>
    new Date(
      new TZDate(
        ...([today.getFullYear(), today.getMonth(), today.getDate() + days] as const),
        ...([Math.floor(at / 60), at % 60, zone] as const),
      ).getTime(),
    );
  const isPast = dayIn(ahead) <= since;
  // Two weeks: the week in between is passed over.
  return dayIn(ahead + (isPast ? 7 : 0) + (DAYS[rule] - 7));
}

export const isQuiet = ({ quiet }: Schedule, now: Date, clock: ShopClock): boolean =>
  quiet !== null && isWithin(quiet, now, clock);

/** Whether a moment is within some minutes of a day, shop time; they may run over midnight. */
export function isWithin(
  hours: { from: number; to: number },
  now: Date,
  { zone }: ShopClock,
): boolean {
  if (hours.from === hours.to) return false;
  const there = new TZDate(now.getTime(), zone);
  const minute = there.getHours() * 60 + there.getMinutes();
  return hours.from < hours.to
    ? minute >= hours.from && minute < hours.to
    : minute >= hours.from || minute < hours.to;
}

export type ScheduleState = 'waiting' | 'due' | 'missed';

/** Where a schedule is now. @param lastDone when a backup was last taken by anybody; null for never */
export function scheduleState(
  schedule: Schedule,
  { began, lastDone, now }: { began: Date; lastDone: Date | null; now: Date },
  clock: ShopClock,
): { state: ScheduleState; due: Date | null } {
  const since = lastDone && lastDone > began ? lastDone : began;
  const due = nextDue(schedule, since, clock);
  if (due === null || now < due) return { state: 'waiting', due };
  return { state: now.getTime() - due.getTime() > MISSED_AFTER ? 'missed' : 'due', due };
}

/** A try that failed would fail again at once: whatever is in the way needs somebody first. */
const REST_AFTER_FAILURE = 60 * MINUTE;

/** Until when nothing starts by itself, because the last try came to nothing; null when it may. */
export function restsUntil(failedAt: Date | null, now: Date): Date | null {
  const until = failedAt && new Date(failedAt.getTime() + REST_AFTER_FAILURE);
  return until && until > now ? until : null;
}

/** Whether a backup should start now, as far as the schedule says. */
export function mayStart(
  schedule: Schedule,
  facts: {
    began: Date;
    lastDone: Date | null;
    now: Date;
    connection: 'cable' | 'network';
    /** The device holds something that its last backup does not. */
    changed: boolean;
  },
  clock: ShopClock,
): boolean {
  if (isQuiet(schedule, facts.now, clock)) return false;
  if (facts.connection === 'network' && !schedule.overNetwork) return false;
  if (schedule.rule === 'on-connect') return facts.changed;
  const { state, due } = scheduleState(schedule, facts, clock);
  if (state === 'due') return true;
  if (state !== 'missed' || due === null) return false;
  if (schedule.catchUp) return true;
  // Without catching up only its own day counts, and a missed one waits for the next such day.
  const again = nextDue(schedule, new Date(facts.now.getTime() - MISSED_AFTER), clock);
  return again !== null && again <= facts.now;
}
