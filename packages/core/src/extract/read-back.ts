import { folded } from '../look/fold.js';
import type { Call } from '../records/call.js';
import type { Message } from '../records/message.js';
import { instantOf } from '../records/wall-time.js';
import { columnRoles, type ColumnRole, type LeftOutReason, type Mapping } from './mapping.js';
import type { Line, OpenFile } from './open-file.js';
import { mediaPath, OWNER } from './records.js';

/** Names that people give a column; the file's own come first. */
const called: Record<ColumnRole, readonly string[]> = {
  at: ['at', 'date', 'time', 'datetime', 'date and time', 'when', 'moment', 'sent', 'timestamp'],
  from: ['from', 'sender', 'who', 'author', 'from number', 'caller'],
  to: ['to', 'recipient', 'recipients', 'receiver', 'to number'],
  thread: ['thread', 'conversation', 'with', 'chat', 'number', 'contact'],
  text: ['text', 'message', 'body', 'words', 'content', 'what'],
};

const SLASHED = /^(\d{1,2})[/.-](\d{1,2})[/.-](\d{4})\b/;

/** How a file is to be read, as far as it tells. */
export function guessedMapping({ columns, lines }: OpenFile): Mapping {
  const find = (role: ColumnRole): string | null =>
    called[role].flatMap(
      (name) => columns.find((column) => folded(column.trim()) === name) ?? [],
    )[0] ?? null;
  const of = (role: ColumnRole) => [role, find(role)] as const;
  const roles = Object.fromEntries(columnRoles.map(of)) as Mapping['columns'];
  const dated = lines.slice(0, 1000).flatMap((line) => {
    const [, first, second] = SLASHED.exec(line[roles.at ?? ''] ?? '') ?? [];
    return first === undefined ? [] : [[Number(first), Number(second)] as const];
  });
  const dates =
    dated.length === 0
      ? 'plain'
      : dated.some(([, second]) => second > 12)
        ? 'month-first'
        : 'day-first';
  return { columns: roles, dates };
}

/** What a file holds, as records of a device. */
export interface ReadBack {
  /** In the order of time. */
  messages: Message[];
  /** A file of nothing but calls has them, and no messages. */
  calls: Call[];
  /** Lines that do not come back, by their number in the file, from 1. */
  leftOut: { line: number; why: LeftOutReason }[];
  /** Names of whom nobody knows a number, in their order. */
  unknown: string[];
  /** Lines that say what another one said, of the same moment: one of them comes back. */
  twice: number;
  /** Of so many what came with them is not there: a file holds words. */
  without: number;
}

/** Where a picture of a file goes, by where the file says that it lies; null for one that is not there. */
export type PicturePath = (place: string) => string | null;

/**
 * Where a line's picture lies below the folder beside its file: the last folder and the name, however the file writes it down. Null for
 * none.
 */
export function picturePlace({ attachment = '' }: Line): string | null {
  return mediaPath({ attachment: decoded(attachment) });
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

const CALL = /^(?:(incoming|outgoing) call, (\d+) s|missed call)$/;

/**
 * Reads a file as it was mapped.
 * @param numbers whose number it is, by name as {@link nameKey} makes it
 * @param zone whose clock times are told by where they say nothing: IANA
 * @param pathOf of the pictures that somebody gave with it
 */
export function readBack(
  file: OpenFile,
  mapping: Mapping,
  numbers: ReadonlyMap<string, string>,
  zone: string,
  pathOf: PicturePath = () => null,
): ReadBack {
  const people = new People(numbers);
  const cell = (line: Line, role: ColumnRole): string => line[mapping.columns[role] ?? ''] ?? '';
  const isOfCalls = file.lines.every((line) => CALL.test(cell(line, 'text').trim()));
  const result: ReadBack = {
    ...{ messages: [], calls: [], leftOut: [], unknown: people.unknown, twice: 0, without: 0 },
  };
  const seen = new Set<string>();
  for (const [n, line] of file.lines.entries()) {
    const leave = (why: LeftOutReason) => void result.leftOut.push({ line: n + 1, why });
    const at = momentOf(cell(line, 'at').trim(), line.key, mapping.dates, zone);
    if (at === null) {
      leave('no-moment');
      continue;
    }
    const said = people.of(cell(line, 'from'), cell(line, 'thread'), cell(line, 'to'));
    if ('why' in said) {
      leave(said.why);
      continue;
    }
    const text = cell(line, 'text');
    const place = picturePlace(line);
    const attachment = place === null ? null : pathOf(place);
    if (text.trim() === '' && attachment === null) {
      leave('no-words');
      continue;
    }
    const ownKey = line.key ?? '';
    const key =
      ownKey !== '' ? ownKey : JSON.stringify([at.getTime(), said.from, said.others, text, place]);
    if (seen.has(key)) {
      result.twice += 1;
      continue;
    }
    seen.add(key);
    if ((line.attachment ?? '') !== '' && attachment === null) result.without += 1;
    if (isOfCalls) result.calls.push(callOf(at, said, text.trim()));
    else {
      const thread = said.others.join(',');
      result.messages.push({ thread, at, from: said.from, text, attachment });
    }
  }
  const inTime = (a: { at: Date }, b: { at: Date }) => a.at.getTime() - b.at.getTime();
  result.messages.sort(inTime);
  result.calls.sort(inTime);
  return result;
}

const callOf = (at: Date, { from, others: [number = ''] }: Said, text: string): Call => {
  const [, , seconds = '0'] = CALL.exec(text) ?? [];
  const kind = from === OWNER ? 'outgoing' : text === 'missed call' ? 'missed' : 'incoming';
  return { at, kind, number, seconds: Number(seconds) };
};

interface Said {
  from: string;
  /** Everybody else in the conversation beside the owner, in one order however the file has them. */
  others: string[];
}

/** A name as it is looked for. */
export const nameKey = (name: string): string => folded(name.trim());

/** Whose a line is: numbers as they stand, names by their numbers. */
class People {
  readonly #numbers: ReadonlyMap<string, string>;
  readonly unknown: string[] = [];

  constructor(numbers: ReadonlyMap<string, string>) {
    this.#numbers = numbers;
  }

  of(from: string, thread: string, to: string): Said | { why: LeftOutReason } {
    if (from.trim() === '') return { why: 'nobody' };
    const who = this.#one(from);
    const listed = thread.trim() === '' ? to : thread;
    const all = listed
      .split(',')
      .filter((one) => one.trim() !== '')
      .map((one) => this.#one(one));
    if (who === null || all.includes(null)) return { why: 'unknown-name' };
    const others = new Set(
      [...all, who].flatMap((one) => (one === null || one === OWNER ? [] : [one])),
    );
    return others.size === 0 ? { why: 'nobody' } : { from: who, others: [...others].toSorted() };
  }

  /** A number; `me` for the owner; null for a name without one. */
  #one(said: string): string | null {
    const one = said.trim();
    if (/^me$/i.test(one)) return OWNER;
    if (/^\+?[\d ()./-]{2,}$/.test(one)) return one;
    const number = this.#numbers.get(nameKey(one));
    if (number !== undefined) return number;
    if (!this.unknown.includes(one) && this.unknown.length < UNKNOWN_MAX) this.unknown.push(one);
    return null;
  }
}
/** More names than these nobody would type numbers for. */
const UNKNOWN_MAX = 200;

/** So far a moment may be told from the one in a line's key: to the minute; and by the hour that clocks show twice when they are set back. */
const MINUTE_MS = 60_000;
const isSameMoment = (a: number, b: number): boolean =>
  [0, 60 * MINUTE_MS].some((apart) => Math.abs(Math.abs(a - b) - apart) <= MINUTE_MS);

/** @param key of a line of ours: it begins with its moment to the millisecond, which a file may tell more coarsely */
function momentOf(
  text: string,
  key: string | undefined,
  dates: Mapping['dates'],
  zone: string,
): Date | null {
  const at = toldMoment(text, dates, zone);
  if (at === null || Number.isNaN(at) || Math.abs(at) > 8.64e15) return null;
  const [, exact] = /^([\da-z]+)-[\da-f]{8}(?:-\d+)?$/.exec(key ?? '') ?? [];
  const known = exact === undefined ? NaN : Number.parseInt(exact, 36);
  return new Date(isSameMoment(known, at) ? known : at);
}

const WALL = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d)(?::(\d\d))?(?:\.\d+)?$/;
const CLOCK = /(\d{1,2}):(\d\d)(?::(\d\d))?\s*([ap]m)?$/i;

function toldMoment(text: string, dates: Mapping['dates'], zone: string): number | null {
  if (/^\d{9,11}$/.test(text)) return Number(text) * 1000;
  if (/^\d{12,14}$/.test(text)) return Number(text);
  const wall = WALL.exec(text);
  if (wall) {
    const [, year, month, day, hour, minute, second = '00'] = wall;
    return instantOf({ wall: `${year}-${month}-${day}T${hour}:${minute}:${second}`, zone }, zone);
  }
  const slashed = SLASHED.exec(text);
  if (slashed) {
    const [, first = '', second = '', year = ''] = slashed;
    const [day, month] = dates === 'month-first' ? [second, first] : [first, second];
    return onWall(Number(year), Number(month), Number(day), text, zone);
  }
  const words = /^(\d{1,2}) ([A-Za-z]{3})[a-z]* (\d{4})\b/.exec(text);
  if (words) {
    const [, day = '', name = '', year = ''] = words;
    const month = MONTHS.indexOf(name.toLowerCase()) + 1;
    return onWall(Number(year), month, Number(day), text, zone);
  }
  // With its zone, as ISO 8601 tells it.
  return /^\d{4}-\d\d-\d\dT.*(?:Z|[+-]\d\d:?\d\d)$/.test(text) ? Date.parse(text) : null;
}
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

/** @param text ends with what the clock shows; without it, it is midnight */
function onWall(
  year: number,
  month: number,
  day: number,
  text: string,
  zone: string,
): number | null {
  if (month < 1 || month > 12 || day < 1 || day > 31) return null;
  const [, hours = '0', minute = '00', second = '00', half] = CLOCK.exec(text) ?? [];
  const hour = half ? (Number(hours) % 12) + (half.toLowerCase() === 'pm' ? 12 : 0) : Number(hours);
  const two = (n: number) => String(n).padStart(2, '0');
  return instantOf(
    { wall: `${year}-${two(month)}-${two(day)}T${two(hour)}:${minute}:${second}`, zone },
    zone,
  );
}
