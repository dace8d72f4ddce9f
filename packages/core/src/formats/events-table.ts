import type { CalendarEvent, WallTime } from '../records/event.js';
import {
  RecordTable,
  several,
  type Cells,
  type Columns,
  type RecordsTable,
  type TableRow,
  type TableText,
} from './record-table.js';
import { cellsOf, daysLater, isWholeDay, minutesIn, wallTimeIn, zoneIn } from './wall-cells.js';

type Part =
  | 'uid'
  | 'title'
  | 'start'
  | 'startClock'
  | 'end'
  | 'endClock'
  | 'zone'
  | 'place'
  | 'notes'
  | 'rule'
  | 'also'
  | 'without'
  | 'instead'
  | 'alarms';

const columns: Columns<Part> = {
  known: [
    [/^(?:u?id)$/i, 'uid'],
    [/^(?:title|subject|summary|what|event)$/i, 'title'],
    [/^(?:start|begin)s?[ -]?time$/i, 'startClock'],
    [/^(?:end|until)s?[ -]?time$/i, 'endClock'],
    [/^(?:(?:start|begin)s?(?:[ -]?date)?|from|when|date)$/i, 'start'],
    [/^(?:(?:end|until)s?(?:[ -]?date)?|to)$/i, 'end'],
    [/\bzone$/i, 'zone'],
    [/^(?:place|location|where)$/i, 'place'],
    [/^(?:notes?|description|remarks?)$/i, 'notes'],
    [/^(?:repeats?|recurs|rule|recurrence)$/i, 'rule'],
    [/^also(?: on)?$/i, 'also'],
    [/^not on$/i, 'without'],
    [/^in place of$/i, 'instead'],
    [/alarm|remind/i, 'alarms'],
  ],
  names: {
    ...{ uid: 'id', end: 'end', zone: 'zone', place: 'place', notes: 'notes', rule: 'repeats' },
    ...{ also: 'also on', without: 'not on', instead: 'in place of', alarms: 'alarm' },
  },
};

/** Entries of a calendar as a table. A row whose beginning nobody can read is none of them, and stays as it is. */
export class EventsTable implements RecordsTable<CalendarEvent> {
  readonly #table: RecordTable<Part>;

  private constructor(table: RecordTable<Part>) {
    this.#table = table;
  }

  /** @returns null where no column says what something is and when it begins */
  static read(text: TableText): EventsTable | null {
    const table = new RecordTable(text, columns);
    return table.has('title') && table.has('start') ? new EventsTable(table) : null;
  }

  rows(): TableRow<CalendarEvent>[] {
    return Array.from({ length: this.#table.length }, (_, row) => row).flatMap((row) => {
      const record = this.#eventOf(row);
      return record ? [{ row, record }] : [];
    });
  }

  #eventOf(row: number): CalendarEvent | null {
    const one = (part: Part) => this.#table.cell(row, part);
    const zone = zoneIn(one('zone'));
    const start = wallTimeIn(one('start'), one('startClock'), zone);
    if (!start) return null;
    const wall = (cell: string) => wallTimeIn(cell, '', zone)?.wall ?? null;
    const walls = (part: Part) => several(one(part)).flatMap((cell) => wall(cell) ?? []);
    return {
      ...{ uid: one('uid'), title: one('title'), place: one('place') },
      notes: this.#table.cells(row, 'notes').join('\n'),
      ...{ start, end: this.#endOf(row, start) },
      rule: one('rule') || null,
      ...{ also: walls('also'), without: walls('without'), instead: wall(one('instead')) },
      alarms: minutesIn(one('alarms')),
    };
  }

  /** A whole day ends with that day, as people say it; a calendar means the one after it. */
  #endOf(row: number, start: WallTime): WallTime | null {
    const cell = this.#table.cell(row, 'end');
    const clock = this.#table.cell(row, 'endClock');
    const day = cell === '' && clock !== '' ? cellsOf(start).day : cell;
    const end = wallTimeIn(day, clock, start.zone);
    if (!end || isWholeDay(end) !== isWholeDay(start)) return null;
    return isWholeDay(start) ? { ...end, wall: daysLater(end.wall, 1) } : end;
  }

  /** The table with these rows, and those that are no entries. */
  write(rows: readonly TableRow<CalendarEvent>[]): string {
    const entries = new Set(this.rows().map(({ row }) => row));
    const others = Array.from({ length: this.#table.length }, (_, row) => row)
      .filter((row) => !entries.has(row))
      .map((row) => ({ row, changes: {} }));
    const needed = new Set(
      rows.filter(({ record }) => record.instead !== null).map(({ record }) => record.uid),
    );
    const all = rows.map(({ row, record }) => ({
      ...{ row, changes: this.#changes(row, record, needed) },
    }));
    return this.#table.write([...all, ...others]);
  }

  /** @param needed what stands together by its id: an occurrence, and what it is one of */
  #changes(row: number | null, event: CalendarEvent, needed: ReadonlySet<string>): Cells<Part> {
    const before = row === null ? null : this.#eventOf(row);
    const isChanged = (part: keyof CalendarEvent): boolean =>
      JSON.stringify(before?.[part] ?? null) !== JSON.stringify(event[part]);
    const changes: Cells<Part> = {};
    const walls = (times: readonly string[]) =>
      times.map((wall) => cellsOf({ wall, zone: null }).both);
    for (const part of ['title', 'place', 'notes'] as const)
      if (isChanged(part)) changes[part] = [event[part]];
    if (needed.has(event.uid) && (before?.uid ?? '') !== event.uid) changes.uid = [event.uid];
    if (isChanged('start') || isChanged('end')) {
      Object.assign(changes, this.#timesOf(event));
      changes.zone = [event.start.zone ?? ''];
    }
    if (isChanged('rule')) changes.rule = [event.rule ?? ''];
    for (const part of ['also', 'without'] as const)
      if (isChanged(part)) changes[part] = walls(event[part]);
    if (isChanged('instead')) changes.instead = event.instead ? walls([event.instead]) : [''];
    if (isChanged('alarms')) changes.alarms = event.alarms.map(String);
    return changes;
  }

  #timesOf({ start, end }: CalendarEvent): Cells<Part> {
    const last = end && isWholeDay(end) ? { ...end, wall: daysLater(end.wall, -1) } : end;
    const cells = (time: WallTime | null, hasClock: boolean) => {
      if (!time) return { time: [''], clock: [''] };
      const { day, clock, both } = cellsOf(time);
      return { time: [hasClock ? day : both], clock: [clock] };
    };
    const begins = cells(start, this.#table.has('startClock'));
    const ends = cells(last, this.#table.has('endClock'));
    return { start: begins.time, startClock: begins.clock, end: ends.time, endClock: ends.clock };
  }
}
