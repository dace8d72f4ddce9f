import { TZDate } from '@date-fns/tz';
import Papa from 'papaparse';
import { armedAgain, unarmed } from '../formats/cells.js';
import { create, fragment } from 'xmlbuilder2';
import { plainNumber } from '../records/contact.js';
import type { Thread } from '../records/thread.js';
import type { DateStyle, ExtractFormat } from './choices.js';
import { articleOf, articlesOn, pageOf, unescaped } from './page.js';
import { mediaPath, OWNER, type ExtractRecord } from './records.js';

export interface ExtractStyle {
  dates: DateStyle;
  /** Whose clock times are told by: an IANA time zone. */
  zone: string;
  /** Names by plain number; empty for numbers as they are. */
  names: ReadonlyMap<string, string>;
  /** Who is in a thread, by its name on the device, where the device keeps that. */
  threads: ReadonlyMap<string, Thread>;
  /** Where on a page what came with a record is found, by its path on the device; what is not here was not taken. */
  places: ReadonlyMap<string, string>;
  /** What a page is called. */
  title: string;
  /** On a page all of it stands in one list, rather than by conversations. */
  isList: boolean;
}

export const plainStyle: ExtractStyle = {
  ...{ dates: 'iso', zone: 'UTC', names: new Map(), threads: new Map(), places: new Map() },
  ...{ title: 'Messages', isList: false },
};

/** A record as it is written: words only. */
interface Row {
  key: string;
  at: string;
  thread: string;
  from: string;
  to: string;
  text: string;
  attachment: string;
}
const columns: (keyof Row)[] = ['key', 'at', 'thread', 'from', 'to', 'text', 'attachment'];

/** Says a moment as it was asked for. */
function dateTeller({ dates, zone }: ExtractStyle): (at: Date) => string {
  if (dates === 'seconds') return (at) => String(Math.floor(at.getTime() / 1000));
  if (dates === 'words') {
    const words = new Intl.DateTimeFormat('en-GB', {
      ...{ day: 'numeric', month: 'short', year: 'numeric' },
      ...{ hour: '2-digit', minute: '2-digit', timeZone: zone },
    });
    return (at) => words.format(at);
  }
  if (zone === 'UTC') return (at) => at.toISOString().replace('.000Z', 'Z');
  return (at) => new TZDate(at, zone).toISOString().replace('.000', '');
}

/** Who is in each thread beside the owner: as the device keeps it, or else whoever said something there. */
function membersOf(
  records: readonly ExtractRecord[],
  threads: ExtractStyle['threads'],
): Map<string, string[]> {
  const members = new Map<string, Set<string>>();
  for (const { thread, from } of records) {
    const known = members.get(thread) ?? new Set(threads.get(thread)?.members);
    members.set(thread, known);
    if (from !== OWNER && !threads.has(thread)) known.add(from);
  }
  return new Map([...members].map(([thread, all]) => [thread, [...all]]));
}

/** Makes rows of records. */
function rowMaker(records: readonly ExtractRecord[], style: ExtractStyle) {
  const called = (number: string) =>
    number === OWNER ? OWNER : (style.names.get(plainNumber(number)) ?? number);
  const members = membersOf(records, style.threads);
  const at = dateTeller(style);
  return (record: ExtractRecord): Row => {
    const { thread, from } = record;
    const others = members.get(thread) ?? [];
    const everybody = [OWNER, ...others].filter((one) => one !== from);
    const to = record.to.length > 0 ? record.to : everybody;
    return {
      key: fit(record.key),
      at: at(record.at),
      thread: fit((others.length > 0 ? others : [thread]).map(called).join(', ')),
      from: fit(called(from)),
      to: fit(to.map(called).join(', ')),
      text: fit(record.text),
      attachment: fit(mediaPath(record) ?? ''),
    };
  };
}

/** What no open file can hold (XML 1.0, section 2.2): control characters, halves of letters, two that are none. */
// oxlint-disable-next-line no-control-regex
const unfit = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|\p{Surrogate}/gu;
const fit = (text: string) => text.replaceAll(unfit, '\ufffd');

interface Format {
  /** A whole new file. */
  write(rows: readonly Row[]): string;
  /** Keys of what a file holds already. @throws Error when it is no file of that format */
  keys(file: string): Set<string>;
  /** The file with more rows at its end. */
  add(file: string, rows: readonly Row[]): string;
}

const XML_ROOT = 'records';

const formats: Record<Exclude<ExtractFormat, 'html'>, Format> = {
  jsonl: {
    write: (rows) => rows.map((row) => `${JSON.stringify(row)}\n`).join(''),
    keys: (file) =>
      new Set(
        file
          .split('\n')
          .filter((line) => line !== '')
          .map((line) => (JSON.parse(line) as Row).key),
      ),
    add: (file, rows) => file + formats.jsonl.write(rows),
  },
  csv: {
    write: (rows) => `${columns.join(',')}\r\n${csvLines(rows)}`,
    keys(file) {
      const { data, meta } = Papa.parse<Row>(file, { header: true, skipEmptyLines: true });
      if (!meta.fields?.includes('key')) throw new Error('no such file');
      return new Set(data.map((row) => armedAgain(row.key)));
    },
    add: (file, rows) => file + csvLines(rows),
  },
  xml: {
    write: (rows) =>
      create(
        { version: '1.0', encoding: 'UTF-8' },
        { [XML_ROOT]: rows.length > 0 ? { record: rows } : {} },
      ).end({
        prettyPrint: true,
      }) + '\n',
    keys(file) {
      if (!file.includes(`<${XML_ROOT}`)) throw new Error('no such file');
      return new Set(
        [...file.matchAll(/<key>([^<]*)<\/key>/g)].map(([, key = '']) => unescaped(key)),
      );
    },
    add(file, rows) {
      if (rows.length === 0) return file;
      const end = file.lastIndexOf(`</${XML_ROOT}>`);
      if (end < 0) return formats.xml.write(rows);
      const more = fragment({ record: rows }).end({ prettyPrint: true });
      return `${file.slice(0, end)}${more}\n</${XML_ROOT}>\n`;
    },
  },
};

function csvLines(rows: readonly Row[]): string {
  if (rows.length === 0) return '';
  const safe = rows.map((row) =>
    Object.fromEntries(Object.entries(row).map(([name, text]) => [name, unarmed(text as string)])),
  );
  return `${Papa.unparse(safe, { columns, header: false, newline: '\r\n' })}\r\n`;
}

/**
 * Records as an open file, in the order of their time, on a page by conversations; or added to one, without what it holds already.
 * @param before the file so far; null for a new one
 * @returns the file, and how many records are new in it
 * @throws Error when `before` is no file of that format
 */
export function writeExtract(
  format: ExtractFormat,
  records: readonly ExtractRecord[],
  style: ExtractStyle,
  before: string | null,
): { file: string; added: number } {
  const row = rowMaker(records, style);
  const newOf = (known: ReadonlySet<string>) =>
    records
      .filter((record) => !known.has(fit(record.key)))
      .sort((a, b) => a.at.getTime() - b.at.getTime() || (a.key < b.key ? -1 : 1));
  if (format === 'html') {
    const there = before === null ? [] : articlesOn(before);
    const added = newOf(new Set(there.map(({ key }) => key)));
    const time = new Intl.DateTimeFormat('en-GB', {
      ...{ hour: '2-digit', minute: '2-digit', timeZone: style.zone },
    });
    if (before !== null && added.length === 0) return { file: before, added: 0 };
    const articles = added.map((record) => {
      const made = row(record);
      const { attachment } = record;
      const thread = style.isList ? style.title : made.thread;
      const isOwn = record.from === OWNER;
      const who = !isOwn ? made.from : style.isList ? `Me to ${made.to}` : 'Me';
      // The day stands over it.
      const at = style.dates === 'words' ? time.format(record.at) : made.at;
      const name = attachment?.slice(attachment.lastIndexOf('/') + 1) ?? '';
      const path = style.places.get(attachment ?? '') ?? null;
      return articleOf({
        ...made,
        at,
        thread,
        who,
        with: attachment === null ? null : { name, path },
      });
    });
    const file = pageOf(style.title, [...there, ...articles], style.zone);
    return { file, added: added.length };
  }
  const added = newOf(before === null ? new Set() : formats[format].keys(before)).map(row);
  const file = before === null ? formats[format].write(added) : formats[format].add(before, added);
  return { file, added: added.length };
}
