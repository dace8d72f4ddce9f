import type { RegularExtract } from '@bright-cellar/contract';
import {
  extractFormatWords,
  extractSetName,
  scheduleRuleNames,
  type Schedule,
} from '@bright-cellar/core';
import { clockTime } from '../design/dates.js';

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
