import Papa from 'papaparse';
import { create, fragment } from 'xmlbuilder2';
import { plainNumber } from '../records/contact.js';
import type { DateStyle, ExtractFormat } from './choices.js';
import { mediaPath, type ExtractRecord } from './records.js';

export interface ExtractStyle {
  dates: DateStyle;
  /** Names by plain number; empty for numbers as they are. */
  names: ReadonlyMap<string, string>;
}

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

const words = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  timeZone: 'UTC',
});

function dateText(at: Date, style: DateStyle): string {
  if (style === 'iso') return at.toISOString().replace('.000Z', 'Z');
  return style === 'words' ? words.format(at) : String(Math.floor(at.getTime() / 1000));
}

function rowOf(record: ExtractRecord, { dates, names }: ExtractStyle): Row {
  const called = (number: string) => names.get(plainNumber(number)) ?? number;
  return {
    key: fit(record.key),
    at: dateText(record.at, dates),
    thread: fit(called(record.thread)),
    from: fit(called(record.from)),
    to: fit(record.to.map(called).join(', ')),
    text: fit(record.text),
    attachment: fit(mediaPath(record) ?? ''),
  };
}

/** A spreadsheet must not take what somebody wrote for a formula: no cell begins as one does. */
export const unarmed = (text: string) => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text);
const armedAgain = (cell: string) => cell.replace(/^'(?=[=+\-@\t\r])/, '');

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
const escaped = (text: string) =>
  text.replace(
    /[&<>"]/g,
    (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? c,
  );
const entities: Record<string, string> = {
  ...{ '&amp;': '&', '&lt;': '<', '&gt;': '>', '&quot;': '"', '&apos;': "'" },
};
/** A key as it was before it was written into a file. */
const unescaped = (text: string) =>
  text.replace(/&(?:amp|lt|gt|quot|apos);/g, (entity) => entities[entity] ?? entity);
const HTML_END = '</tbody></table></body></html>\n';

const formats: Record<ExtractFormat, Format> = {
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
  html: {
    write: (rows) =>
      `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Records</title><style>body{font:15px/1.4 sans-serif;margin:2em}td{padding:.3em .8em;vertical-align:top;border-top:1px solid #ccc}</style></head><body><table><thead><tr>${columns
        .slice(1)
        .map((c) => `<th>${c}</th>`)
        .join('')}</tr></thead><tbody>\n${htmlRows(rows)}${HTML_END}`,
    keys(file) {
      if (!file.endsWith(HTML_END)) throw new Error('no such file');
      return new Set(
        [...file.matchAll(/<tr data-key="([^"]*)"/g)].map(([, key = '']) => unescaped(key)),
      );
    },
    add: (file, rows) => file.slice(0, -HTML_END.length) + htmlRows(rows) + HTML_END,
  },
};

function csvLines(rows: readonly Row[]): string {
  if (rows.length === 0) return '';
  const safe = rows.map((row) =>
    Object.fromEntries(Object.entries(row).map(([name, text]) => [name, unarmed(text as string)])),
  );
  return `${Papa.unparse(safe, { columns, header: false, newline: '\r\n' })}\r\n`;
}

function htmlRows(rows: readonly Row[]): string {
  return rows
    .map(
      (row) =>
        `<tr data-key="${escaped(row.key)}">${columns
          .slice(1)
          .map((c) => `<td>${escaped(row[c])}</td>`)
          .join('')}</tr>\n`,
    )
    .join('');
}

/**
 * Records as an open file, in the order of their time; or added to one, without what it holds already.
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
  const known = before === null ? new Set<string>() : formats[format].keys(before);
  const rows = records
    .filter((record) => !known.has(fit(record.key)))
    .sort((a, b) => a.at.getTime() - b.at.getTime() || (a.key < b.key ? -1 : 1))
    .map((record) => rowOf(record, style));
  const file = before === null ? formats[format].write(rows) : formats[format].add(before, rows);
  return { file, added: rows.length };
}
