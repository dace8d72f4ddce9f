import type { RegularExtract } from '@bright-cellar/contract';
import {
  extractFormatWords,
  extractSetName,
  scheduleRuleNames,
  type Schedule,
} from '@bright-cellar/core';

export const weekdays = {
  '1': 'Monday',
  '2': 'Tuesday',
  '3': 'Wednesday',
  '4': 'Thursday',
  '5': 'Friday',
  '6': 'Saturday',
  '0': 'Sunday',
} as const;
export type Weekday = keyof typeof weekdays;

export const clockTime = (minute: number): string =>
  `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;

/** Minutes after midnight; null when it is no time of day. */
export function minuteOf(text: string): number | null {
  const found = /^([01]?\d|2[0-3]):([0-5]\d)$/.exec(text.trim());
  return found ? Number(found[1]) * 60 + Number(found[2]) : null;
}

/** What is taken. */
export const takingWords = (extract: RegularExtract | null): string =>
  extract
    ? `${extractSetName(extract.what.set)}, as ${extractFormatWords[extract.what.format]}`
    : 'Everything, into its archive';

/** A schedule as somebody would say it. */
export function scheduleWords(schedule: Schedule): string {
  const parts = [
    schedule.rule === 'on-connect'
      ? scheduleRuleNames['on-connect']
      : `${scheduleRuleNames[schedule.rule]}, ${weekdays[String(schedule.weekday) as Weekday]} ${clockTime(schedule.at)}`,
  ];
  if (schedule.quiet)
    parts.push(`not ${clockTime(schedule.quiet.from)}–${clockTime(schedule.quiet.to)}`);
  if (schedule.overNetwork) parts.push('also over the network');
  return parts.join('; ');
}
