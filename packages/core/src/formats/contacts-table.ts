import Papa from 'papaparse';
import { noContact, type Contact } from '../records/contact.js';
import { armedAgain, unarmed } from './cells.js';

type Part = 'given' | 'family' | 'name' | 'numbers' | 'emails' | 'addresses' | Single;
type Single = 'birthday' | 'organisation' | 'note';

/** What a column holds, by what is written above it; the first that fits. */
const columns: readonly [RegExp, Part][] = [
  [/^(?:first|given)\b/i, 'given'],
  [/^(?:last|family|sur)[ -]?name/i, 'family'],
  [/^(?:full |display )?name$/i, 'name'],
  [/mail/i, 'emails'],
  [/\b(?:phone|telephone|tel|mobile|cell|numbers?)\b/i, 'numbers'],
  [/address|street/i, 'addresses'],
  [/birth|born/i, 'birthday'],
  [/organi[sz]ation|company|works at/i, 'organisation'],
  [/note|remark|comment/i, 'note'],
];
const partOf = (header: string): Part | null =>
  columns.find(([pattern]) => pattern.test(header.trim()))?.[1] ?? null;

/** Several of a kind in one cell. */
const SEVERAL = '; ';
const several = (cell: string): string[] =>
  cell
    .split(/\s*(?:;|:::)\s*/)
    .map((one) => one.trim())
    .filter((one) => one !== '');

/** A row, by its number in the table, and whom it is about; without one it is new. */
export interface TableRow {
  row: number | null;
  contact: Contact;
}

/**
 * Contacts as a table (RFC 4180, commas or semicolons): columns are known by what is written above them, and all others are kept
 * as they are.
 */
export class ContactsTable {
  readonly #headers: readonly string[];
  readonly #rows: readonly (readonly string[])[];
  readonly #delimiter: string;

  private constructor(headers: string[], rows: string[][], delimiter: string) {
    this.#headers = headers;
    this.#rows = rows;
    this.#delimiter = delimiter;
  }

  /** @returns null where no column says what anybody is called */
  static read(text: string): ContactsTable | null {
    const plain = text.replace(/^\ufeff/, '').trim();
    const { data, meta } = Papa.parse<string[]>(plain, { skipEmptyLines: 'greedy' });
    const [headers = [], ...rows] = data;
    const parts = new Set(headers.map(partOf));
    const isNamed = parts.has('name') || parts.has('given') || parts.has('family');
    return isNamed ? new ContactsTable(headers, rows, meta.delimiter) : null;
  }

  contacts(): Contact[] {
    return this.#rows.map((row) => this.#contactOf(row));
  }

  #contactOf(row: readonly string[]): Contact {
    const cells = (part: Part): string[] =>
      this.#headers.flatMap((header, at) => {
        const cell = armedAgain(row[at]?.trim() ?? '');
        return partOf(header) === part && cell !== '' ? [cell] : [];
      });
    const one = (part: Part): string => cells(part)[0] ?? '';
    return {
      ...noContact,
      name: one('name') || [one('given'), one('family')].filter(Boolean).join(' '),
      numbers: cells('numbers').flatMap(several),
      emails: cells('emails').flatMap(several),
      addresses: cells('addresses').flatMap(several),
      birthday: /^(?:\d{4}|-)-\d\d-\d\d$/.test(one('birthday')) ? one('birthday') : '',
      organisation: one('organisation'),
      note: cells('note').join('\n'),
    };
  }

  /** The table with these rows: what nobody changed is as it was, and whatever else stands in a row stays in it. */
  write(rows: readonly TableRow[]): string {
    const data = rows.map(({ row, contact }) => {
      const was = row === null ? null : (this.#rows[row] ?? null);
      if (was && JSON.stringify(this.#contactOf(was)) === JSON.stringify(contact)) return was;
      return this.#written(was, contact);
    });
    const table = { fields: [...this.#headers], data: data.map((cells) => [...cells]) };
    return `${Papa.unparse(table, { newline: '\r\n', delimiter: this.#delimiter })}\r\n`;
  }

  #written(was: readonly string[] | null, contact: Contact): string[] {
    const before = was && this.#contactOf(was);
    const places = (part: Part): number[] =>
      this.#headers.flatMap((header, at) => (partOf(header) === part ? [at] : []));
    const cells = this.#headers.map((_, at) => was?.[at] ?? '');
    /** One in each column of that kind; what is over stands in the last. */
    const put = (part: Part, values: readonly string[]): void => {
      const all = places(part);
      for (const [nth, at] of all.entries()) {
        const rest = nth === all.length - 1 ? values.slice(nth) : values.slice(nth, nth + 1);
        const cell = rest.join(SEVERAL);
        // A number begins as a formula may, and is none.
        cells[at] = part === 'numbers' && /^[+\d][\d ()/.;+-]*$/.test(cell) ? cell : unarmed(cell);
      }
    };
    const isChanged = (part: keyof Contact): boolean =>
      JSON.stringify(before?.[part] ?? noContact[part]) !== JSON.stringify(contact[part]);
    if (isChanged('name')) {
      const words = contact.name.split(' ');
      const [given, family] = [words.slice(0, -1).join(' '), words.at(-1) ?? ''];
      put('name', [contact.name]);
      put('given', [places('family').length > 0 ? given : contact.name]);
      put('family', [places('given').length > 0 ? family : contact.name]);
    }
    for (const part of ['numbers', 'emails', 'addresses'] as const)
      if (isChanged(part)) put(part, contact[part]);
    for (const part of ['birthday', 'organisation', 'note'] as const)
      if (isChanged(part)) put(part, [contact[part]]);
    return cells;
  }
}
