import Papa from 'papaparse';
import { armedAgain, unarmed } from './cells.js';

/** What columns may hold: each is known by what is written above it; the first that fits. */
export interface Columns<Part extends string> {
  known: readonly (readonly [RegExp, Part])[];
  /** What is written above a column that a table lacks, where something has to go into one. */
  names: Readonly<Partial<Record<Part, string>>>;
  /** Cells that begin as a formula may, and are none. */
  isPlain?: (part: Part, cell: string) => boolean;
}

/** Several of a kind in one cell. */
const SEVERAL = '; ';
export const several = (cell: string): string[] =>
  cell
    .split(/\s*(?:;|:::)\s*/)
    .map((one) => one.trim())
    .filter((one) => one !== '');

/** A row of a table, and what it says; without a row it is new. */
export interface TableRow<Of> {
  row: number | null;
  record: Of;
}

/** A table of things of one kind, read and written. */
export interface RecordsTable<Of> {
  rows(): TableRow<Of>[];
  /** The table with these rows: what nobody changed is as it was, and whatever else stands in a row stays in it. */
  write(rows: readonly TableRow<Of>[]): string;
}

/** A table as it stands in a file, whatever it is about. */
export interface TableText {
  headers: readonly string[];
  rows: readonly (readonly string[])[];
  delimiter: string;
}

export function tableText(text: string): TableText {
  const plain = text.replace(/^\ufeff/, '').trim();
  const { data, meta } = Papa.parse<string[]>(plain, { skipEmptyLines: 'greedy' });
  const [headers = [], ...rows] = data;
  return { headers, rows, delimiter: meta.delimiter };
}

/** What belongs into a row, by what it is; what is not named stays as it is. */
export type Cells<Part extends string> = Partial<Record<Part, readonly string[]>>;
/** A row by its number in the table, null for a new one, and what of it changes. */
export interface ChangedRow<Part extends string> {
  row: number | null;
  changes: Cells<Part>;
}

/** A table of somebody's (RFC 4180, commas or semicolons): all that nobody changed stays in it as it was, also columns that nobody knows. */
export class RecordTable<Part extends string> {
  readonly #headers: readonly string[];
  readonly #parts: readonly (Part | null)[];
  readonly #rows: readonly (readonly string[])[];
  readonly #delimiter: string;
  readonly #columns: Columns<Part>;

  constructor({ headers, rows, delimiter }: TableText, columns: Columns<Part>) {
    this.#columns = columns;
    this.#headers = headers;
    this.#parts = headers.map(
      (header) => columns.known.find(([pattern]) => pattern.test(header.trim()))?.[1] ?? null,
    );
    this.#rows = rows;
    this.#delimiter = delimiter;
  }

  get length(): number {
    return this.#rows.length;
  }

  has(part: Part): boolean {
    return this.#parts.includes(part);
  }

  /** What stands in the columns of a kind, without those that are empty. */
  cells(row: number, part: Part): string[] {
    return this.#parts.flatMap((of, at) => {
      const cell = armedAgain(this.#rows[row]?.[at]?.trim() ?? '');
      return of === part && cell !== '' ? [cell] : [];
    });
  }

  cell(row: number, part: Part): string {
    return this.cells(row, part)[0] ?? '';
  }

  /** The table with these rows and no others. What no column is there for gets one, where anything stands in it. */
  write(rows: readonly ChangedRow<Part>[]): string {
    const lacking = (Object.keys(this.#columns.names) as Part[]).filter(
      (part) =>
        !this.has(part) &&
        rows.some(({ changes }) => changes[part]?.some((value) => value !== '') === true),
    );
    const fields = [...this.#headers, ...lacking.map((part) => this.#columns.names[part] ?? part)];
    const parts = [...this.#parts, ...lacking];
    const data = rows.map(({ row, changes }) => {
      const was = row === null ? [] : (this.#rows[row] ?? []);
      const cells = fields.map((_, at) => was[at] ?? '');
      for (const part of new Set(parts)) {
        const values = part === null ? undefined : changes[part];
        if (part !== null && values) this.#put(cells, parts, part, values);
      }
      return cells;
    });
    return `${Papa.unparse({ fields, data }, { newline: '\r\n', delimiter: this.#delimiter })}\r\n`;
  }

  /** One in each column of that kind; what is over stands in the last. */
  #put(
    cells: string[],
    parts: readonly (Part | null)[],
    part: Part,
    values: readonly string[],
  ): void {
    const places = parts.flatMap((of, at) => (of === part ? [at] : []));
    for (const [nth, at] of places.entries()) {
      const rest = nth === places.length - 1 ? values.slice(nth) : values.slice(nth, nth + 1);
      const cell = rest.join(SEVERAL);
      cells[at] = this.#columns.isPlain?.(part, cell) === true ? cell : unarmed(cell);
    }
  }
}
