import { Parser } from 'htmlparser2';
import Papa from 'papaparse';
import { armedAgain } from '../formats/cells.js';
import type { ExtractFormat } from './choices.js';

/** An open file of messages or calls, as it came: perhaps one of ours, perhaps edited, joined or written by somebody else. */
export interface OpenFile {
  format: ExtractFormat;
  /** In their order. */
  columns: string[];
  lines: Line[];
  /** So many lines of it are none. */
  broken: number;
}

/** What a line says in each column. */
export type Line = Readonly<Partial<Record<string, string>>>;

/** A longer file is none that people hold in their hands. */
export const OPEN_FILE_LINES_MAX = 500_000;

/** @throws Error where it is none of the formats */
export function readOpenFile(text: string): OpenFile {
  const file = text.replace(/^\ufeff/, '');
  const format = formatOf(file);
  const { lines, broken } = readers[format](file);
  if (lines.length === 0 || lines.length > OPEN_FILE_LINES_MAX) throw new Error('no such file');
  const columns = [...new Set(lines.slice(0, 100).flatMap((line) => Object.keys(line)))];
  return { format, columns, lines, broken };
}

function formatOf(file: string): ExtractFormat {
  const start = file.trimStart().slice(0, 2000).toLowerCase();
  if (/^(?:<!doctype html|<html)/.test(start)) return 'html';
  if (start.startsWith('<')) return 'xml';
  return start.startsWith('{') ? 'jsonl' : 'csv';
}

interface Read {
  lines: Line[];
  broken: number;
}
const readers: Record<ExtractFormat, (file: string) => Read> = {
  jsonl(file) {
    const all = file.split('\n').filter((line) => line.trim() !== '');
    const lines = all.flatMap((line) => {
      try {
        const value: unknown = JSON.parse(line);
        if (typeof value !== 'object' || value === null || Array.isArray(value)) return [];
        return [
          Object.fromEntries(
            Object.entries(value).map(([name, said]) => [
              name,
              typeof said === 'string' ? said : JSON.stringify(said),
            ]),
          ),
        ];
      } catch {
        return [];
      }
    });
    return { lines, broken: all.length - lines.length };
  },
  csv(file) {
    // Spreadsheets write a semicolon where the comma is in numbers.
    const { data, errors, meta } = Papa.parse<Record<string, string>>(file, {
      header: true,
      skipEmptyLines: 'greedy',
    });
    if ((meta.fields?.length ?? 0) < 2) throw new Error('no such file');
    const lines = data.map((row) =>
      Object.fromEntries(
        Object.entries(row).flatMap(([name, cell]) =>
          typeof cell === 'string' ? [[name, armedAgain(cell)]] : [],
        ),
      ),
    );
    return { lines, broken: new Set(errors.map(({ row }) => row)).size };
  },
  /** Whatever the root is called: its children are the lines, and theirs the columns. */
  xml(file) {
    const lines: Record<string, string>[] = [];
    const open: string[] = [];
    const parser = new Parser(
      {
        onopentag(name) {
          open.push(name);
          if (open.length === 2) lines.push({});
        },
        ontext(text) {
          const [, , column] = open;
          const line = lines.at(-1);
          if (open.length === 3 && column !== undefined && line)
            line[column] = (line[column] ?? '') + text;
        },
        onclosetag: () => void open.pop(),
      },
      { xmlMode: true, decodeEntities: true },
    );
    parser.end(file);
    return { lines, broken: 0 };
  },
  /** A page of ours: one article a line. */
  html(file) {
    const lines: Record<string, string>[] = [];
    let title = '';
    let at: 'title' | 'who' | 'text' | null = null;
    const parser = new Parser(
      {
        onopentag(name, attributes) {
          if (name === 'h1') at = 'title';
          if (name === 'article') {
            lines.push({ text: '', attachment: '', ...articleOf(attributes, title) });
          }
          const line = lines.at(-1);
          if (!line) return;
          if (name === 'time' && attributes.datetime) line.at = attributes.datetime;
          if (name === 'b' && line.from === undefined) at = 'who';
          if (name === 'p' && attributes.dir === 'auto') at = 'text';
          if (['img', 'video', 'audio', 'a'].includes(name))
            line.attachment = attributes.src ?? attributes.href ?? '';
        },
        ontext(text) {
          const line = lines.at(-1);
          if (at === 'title') title += text;
          else if (line && at === 'text') line.text = (line.text ?? '') + text;
          else if (line && at === 'who') line.from = (line.from ?? '') + text;
        },
        onclosetag(name) {
          const line = lines.at(-1);
          if (line && at === 'who' && line.from === THE_OWNER) line.from = 'me';
          if (['h1', 'b', 'p'].includes(name)) at = null;
        },
      },
      { decodeEntities: true },
    );
    parser.end(file);
    return { lines, broken: 0 };
  },
};

/** What a conversation that was taken out of a look-in calls whoever the device belongs to. */
const THE_OWNER = 'The owner';

/**
 * What an article says of itself. One of a conversation that was taken out of a look-in says nothing: its page says whom it is with.
 * On a page that is one list there are no conversations: it is called as they would be.
 */
function articleOf(attributes: Record<string, string>, title: string): Record<string, string> {
  const names = { key: 'data-key', thread: 'data-thread', from: 'data-from', to: 'data-to' };
  const said = Object.fromEntries(
    Object.entries(names).flatMap(([column, name]) => {
      const value = attributes[name];
      return value === undefined ? [] : [[column, value]];
    }),
  );
  if (said.thread === undefined) return { ...said, thread: title.replace(/^With /, '') };
  return said.thread === title ? { ...said, thread: '' } : said;
}
