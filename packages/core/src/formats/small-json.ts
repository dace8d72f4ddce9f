import { z } from 'zod';
import { moment, utf8, type RecordFormat } from './define.js';

/**
 * Formats of our own that are one JSON value a file (RFC 8259, UTF-8): what else stands in it is not looked at. JSON holds any
 * text, halves of letters included.
 */
const json = (contents: Uint8Array): unknown => JSON.parse(utf8(contents));
const written = (value: unknown): Uint8Array =>
  new TextEncoder().encode(`${JSON.stringify(value, null, 2)}\n`);
const MOST = 100_000;

const pages = z.array(z.object({ name: z.string(), page: z.string() })).max(MOST);

export const bookmarks: RecordFormat<'bookmarks'> = {
  mediaType: 'application/vnd.bright-cellar.bookmarks+json',
  kind: 'bookmarks',
  parse: (contents) => ({ kind: 'bookmarks', bookmarks: pages.parse(json(contents)) }),
  write: (records) => written(records.bookmarks),
};

const visited = z.object({
  visited: z.array(z.object({ at: z.string(), page: z.string() })).max(MOST),
});

export const visits: RecordFormat<'visits'> = {
  mediaType: 'application/vnd.bright-cellar.visits+json',
  kind: 'visits',
  parse: (contents) => ({
    kind: 'visits',
    visits: visited.parse(json(contents)).visited.map(({ at, page }) => ({ at: moment(at), page })),
  }),
  write: (records) => written({ visited: records.visits }),
};

const set = z
  .array(
    z.object({
      at: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/),
      days: z.string().default(''),
      label: z.string().default(''),
    }),
  )
  .max(MOST);

export const alarms: RecordFormat<'alarms'> = {
  mediaType: 'application/vnd.bright-cellar.alarms+json',
  kind: 'alarms',
  parse: (contents) => ({
    kind: 'alarms',
    alarms: set.parse(json(contents)).map(({ at, days, label }) => ({ time: at, days, label })),
  }),
  write: (records) =>
    written(records.alarms.map(({ time, days, label }) => ({ at: time, days, label }))),
};

const names = z.array(z.string()).max(1000);
const screen = z.object({ pages: z.array(names).max(1000), dock: names });

export const homeScreen: RecordFormat<'screens'> = {
  mediaType: 'application/vnd.bright-cellar.home-screen+json',
  kind: 'screens',
  parse: (contents) => ({ kind: 'screens', screens: [screen.parse(json(contents))] }),
  write: ({ screens: [first] }) => written(first ?? { pages: [], dock: [] }),
};
