import { callKinds, type DataClass } from '@bright-cellar/core';
import { z } from 'zod';

/** How much there is in a month (as `2026-03`, UTC), and the first row of it. */
export const monthSchema = z.object({ month: z.string(), count: z.int(), first: z.int() });

const at = z.iso.datetime();
/** What plays it; null where no browser does. */
const played = {
  item: z.int(),
  path: z.string(),
  bytes: z.int(),
  at,
  plays: z.string().nullable(),
};

const call = z.object({
  at,
  kind: z.enum(callKinds),
  /** Whose the number is; the number where no contact has it. */
  name: z.string(),
  number: z.string(),
  seconds: z.number(),
});

/** What is read in a look-in as a list, and what a row of it says. One entry adds one. */
export const shelfRows = {
  contacts: z.object({
    name: z.string(),
    numbers: z.array(z.string()),
    emails: z.array(z.string()),
    addresses: z.array(z.string()),
    birthday: z.string(),
    organisation: z.string(),
    note: z.string(),
    /** Another card has one of its numbers or addresses: likely the same person. */
    isTwice: z.boolean(),
    /** Its number among all cards, as they were read. */
    card: z.int(),
    hasPicture: z.boolean(),
  }),
  calls: call,
  /** Everything that happens, each occurrence by itself. */
  calendar: z.object({
    at,
    until: at,
    isWholeDay: z.boolean(),
    /** Where its time is one on the wall; null for wherever one is. */
    zone: z.string().nullable(),
    title: z.string(),
    place: z.string(),
    notes: z.string(),
    isRepeated: z.boolean(),
    /** The entry that it comes from, by its number in this look-in. */
    event: z.int(),
    /** Minutes before it at which it wants to be noticed. */
    alarms: z.array(z.number()),
  }),
  tasks: z.object({
    ...{ title: z.string(), notes: z.string() },
    /** By when: a day, or a time on the wall there; empty for whenever. */
    due: z.string(),
    zone: z.string().nullable(),
    done: z.boolean(),
    /** 1 is the most urgent, 9 the least; 0 where nobody said. */
    priority: z.int(),
    isRepeated: z.boolean(),
    /** Its number among all, as they were read. */
    task: z.int(),
  }),
  notes: z.object({
    ...{ title: z.string(), text: z.string(), at, item: z.int() },
    /** Its marks mean something (RFC 7763). */
    isMarkdown: z.boolean(),
  }),
  photographs: z.object({
    item: z.int(),
    path: z.string(),
    bytes: z.int(),
    /** When it was taken, as its camera says, or else when the file was changed. */
    at,
    isAtSaid: z.boolean(),
    camera: z.string(),
    album: z.string(),
    /** Degrees. */
    place: z.object({ latitude: z.number(), longitude: z.number() }).nullable(),
    /** It can be drawn. */
    isPicture: z.boolean(),
    /** Others with the very same contents. */
    alike: z.int(),
  }),
  videos: z.object({ ...played, isPicture: z.boolean() }),
  'voice-notes': z.object(played),
  music: z.object(played),
  documents: z.object({
    item: z.int(),
    path: z.string(),
    bytes: z.int(),
    at,
    /** How it can be shown here. */
    shows: z.enum(['text', 'picture', 'pages']).nullable(),
  }),
  bookmarks: z.object({ name: z.string(), page: z.string() }),
  visits: z.object({ at, page: z.string() }),
  alarms: z.object({ time: z.string(), days: z.string(), label: z.string() }),
  /** What was measured, day by day (UTC). */
  health: z.object({
    what: z.string(),
    unit: z.string(),
    measurements: z.int(),
    days: z.array(
      z.object({
        day: z.string(),
        low: z.number(),
        high: z.number(),
        mean: z.number(),
        sum: z.number(),
        count: z.int(),
      }),
    ),
  }),
  applications: z.object({ name: z.string(), items: z.int(), bytes: z.int() }),
  /** Where the device shows its applications. */
  screens: z.object({ pages: z.array(z.array(z.string())), dock: z.array(z.string()) }),
} as const;

/** The class that a shelf is filled from. */
export const shelfClasses = {
  ...{ contacts: 'contacts', calls: 'calls', calendar: 'calendar', notes: 'notes' },
  tasks: 'tasks',
  ...{ photographs: 'photographs', videos: 'videos', 'voice-notes': 'voice-notes' },
  ...{ music: 'music', documents: 'documents', bookmarks: 'web-history', visits: 'web-history' },
  ...{ alarms: 'alarms', health: 'health', applications: 'applications', screens: 'settings' },
} as const satisfies Record<ShelfId, DataClass>;

export type ShelfId = keyof typeof shelfRows;
export type ShelfRow<Id extends ShelfId> = z.infer<(typeof shelfRows)[Id]>;
export const shelfIds = Object.keys(shelfRows) as [ShelfId, ...ShelfId[]];

/** Some rows of a shelf, and how many there are. */
export interface ShelfPart<Id extends ShelfId> {
  shelf: Id;
  /** Each with its number on the shelf, by which it is taken in hand. */
  rows: (ShelfRow<Id> & { row: number })[];
  total: number;
  /** Of those that are told in the order of time. */
  months: z.infer<typeof monthSchema>[];
}
export type AnyShelfPart = { [Id in ShelfId]: ShelfPart<Id> }[ShelfId];

const parts = shelfIds.map((shelf) =>
  z.object({
    shelf: z.literal(shelf),
    rows: z.array(shelfRows[shelf].extend({ row: z.int() })),
    total: z.int(),
    months: z.array(monthSchema),
  }),
);
export const shelfPartSchema = z.union(parts) as unknown as z.ZodType<AnyShelfPart, AnyShelfPart>;
