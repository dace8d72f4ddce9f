import type { Task } from '../records/task.js';
import {
  RecordTable,
  type Cells,
  type Columns,
  type RecordsTable,
  type TableRow,
  type TableText,
} from './record-table.js';
import { cellsOf, minutesIn, wallTimeIn, zoneIn } from './wall-cells.js';

type Part = 'title' | 'due' | 'dueClock' | 'zone' | 'done' | 'priority' | 'notes' | Late;
type Late = 'rule' | 'alarms';

const columns: Columns<Part> = {
  known: [
    [/^(?:task|title|subject|summary|what|to[ -]?do)$/i, 'title'],
    [/^due[ -]?time$/i, 'dueClock'],
    [/^(?:due(?:[ -]?date)?|by|until)$/i, 'due'],
    [/\bzone$/i, 'zone'],
    [/^(?:done|completed?|finished)$/i, 'done'],
    [/^priority$/i, 'priority'],
    [/^(?:notes?|description|remarks?)$/i, 'notes'],
    [/^(?:repeats?|recurs|rule|recurrence)$/i, 'rule'],
    [/alarm|remind/i, 'alarms'],
  ],
  names: {
    ...{ due: 'due', zone: 'zone', done: 'done', priority: 'priority', notes: 'notes' },
    ...{ rule: 'repeats', alarms: 'alarm' },
  },
};

/** Tasks as a table. */
export class TasksTable implements RecordsTable<Task> {
  readonly #table: RecordTable<Part>;

  private constructor(table: RecordTable<Part>) {
    this.#table = table;
  }

  /** @returns null where no column says what is to be done, and none by when or whether it is */
  static read(text: TableText): TasksTable | null {
    const table = new RecordTable(text, columns);
    return table.has('title') && (table.has('due') || table.has('done'))
      ? new TasksTable(table)
      : null;
  }

  rows(): TableRow<Task>[] {
    return Array.from({ length: this.#table.length }, (_, row) => ({
      row,
      record: this.#taskOf(row),
    }));
  }

  #taskOf(row: number): Task {
    const one = (part: Part) => this.#table.cell(row, part);
    const due = wallTimeIn(one('due'), one('dueClock'), zoneIn(one('zone')));
    const priority = /^[1-9]$/.test(one('priority')) ? Number(one('priority')) : 0;
    return {
      ...{ uid: '', title: one('title'), due, priority },
      notes: this.#table.cells(row, 'notes').join('\n'),
      done: /^(?:x|y|yes|true|done|1|completed|finished)$/i.test(one('done')),
      rule: due && one('rule') !== '' ? one('rule') : null,
      alarms: due ? minutesIn(one('alarms')) : [],
    };
  }

  write(rows: readonly TableRow<Task>[]): string {
    return this.#table.write(
      rows.map(({ row, record }) => ({ row, changes: this.#changes(row, record) })),
    );
  }

  #changes(row: number | null, task: Task): Cells<Part> {
    const before = row === null ? null : this.#taskOf(row);
    const isChanged = (part: keyof Task): boolean =>
      JSON.stringify(before?.[part] ?? null) !== JSON.stringify(task[part]);
    const changes: Cells<Part> = {};
    for (const part of ['title', 'notes'] as const)
      if (isChanged(part)) changes[part] = [task[part]];
    if (isChanged('due')) {
      const { day, clock, both } = task.due ? cellsOf(task.due) : { day: '', clock: '', both: '' };
      changes.due = [this.#table.has('dueClock') ? day : both];
      changes.dueClock = [clock];
      changes.zone = [task.due?.zone ?? ''];
    }
    if (before?.done !== task.done && (task.done || before))
      changes.done = [task.done ? 'yes' : ''];
    if ((before?.priority ?? 0) !== task.priority)
      changes.priority = [task.priority === 0 ? '' : String(task.priority)];
    if (isChanged('rule')) changes.rule = [task.rule ?? ''];
    if (isChanged('alarms')) changes.alarms = task.alarms.map(String);
    return changes;
  }
}
