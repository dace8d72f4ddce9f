import { noContact, type Contact } from '../records/contact.js';
import {
  RecordTable,
  several,
  type Cells,
  type Columns,
  type RecordsTable,
  type TableRow,
  type TableText,
} from './record-table.js';

type Part = 'given' | 'family' | 'name' | 'numbers' | 'emails' | 'addresses' | Single;
type Single = 'birthday' | 'organisation' | 'note';

const columns: Columns<Part> = {
  known: [
    [/^(?:first|given)\b/i, 'given'],
    [/^(?:last|family|sur)[ -]?name/i, 'family'],
    [/^(?:full |display )?name$/i, 'name'],
    [/mail/i, 'emails'],
    [/\b(?:phone|telephone|tel|mobile|cell|numbers?)\b/i, 'numbers'],
    [/address|street/i, 'addresses'],
    [/birth|born/i, 'birthday'],
    [/organi[sz]ation|company|works at/i, 'organisation'],
    [/note|remark|comment/i, 'note'],
  ],
  names: {
    ...{ numbers: 'numbers', emails: 'emails', addresses: 'addresses' },
    ...{ birthday: 'birthday', organisation: 'organisation', note: 'note' },
  },
  // A number begins as a formula may, and is none.
  isPlain: (part, cell) => part === 'numbers' && /^[+\d][\d ()/.;+-]*$/.test(cell),
};

/** Contacts as a table: who stands in which row. */
export class ContactsTable implements RecordsTable<Contact> {
  readonly #table: RecordTable<Part>;

  private constructor(table: RecordTable<Part>) {
    this.#table = table;
  }

  /** @returns null where no column says what anybody is called */
  static read(text: TableText): ContactsTable | null {
    const table = new RecordTable(text, columns);
    const isNamed = table.has('name') || table.has('given') || table.has('family');
    return isNamed ? new ContactsTable(table) : null;
  }

  rows(): TableRow<Contact>[] {
    return Array.from({ length: this.#table.length }, (_, row) => ({
      row,
      record: this.#contactOf(row),
    }));
  }

  #contactOf(row: number): Contact {
    const all = (part: Part) => this.#table.cells(row, part);
    const one = (part: Part) => this.#table.cell(row, part);
    return {
      ...noContact,
      name: one('name') || [one('given'), one('family')].filter(Boolean).join(' '),
      numbers: all('numbers').flatMap(several),
      emails: all('emails').flatMap(several),
      addresses: all('addresses').flatMap(several),
      birthday: /^(?:\d{4}|-)-\d\d-\d\d$/.test(one('birthday')) ? one('birthday') : '',
      organisation: one('organisation'),
      note: all('note').join('\n'),
    };
  }

  write(rows: readonly TableRow<Contact>[]): string {
    return this.#table.write(
      rows.map(({ row, record }) => ({ row, changes: this.#changes(row, record) })),
    );
  }

  #changes(row: number | null, contact: Contact): Cells<Part> {
    const before = row === null ? noContact : this.#contactOf(row);
    const isChanged = (part: keyof Contact): boolean =>
      JSON.stringify(before[part]) !== JSON.stringify(contact[part]);
    const words = contact.name.split(' ');
    const [given, family] = [words.slice(0, -1).join(' '), words.at(-1) ?? ''];
    const changes: Cells<Part> = isChanged('name')
      ? {
          name: [contact.name],
          given: [this.#table.has('family') ? given : contact.name],
          family: [this.#table.has('given') ? family : contact.name],
        }
      : {};
    for (const part of ['numbers', 'emails', 'addresses'] as const)
      if (isChanged(part)) changes[part] = contact[part];
    for (const part of ['birthday', 'organisation', 'note'] as const)
      if (isChanged(part)) changes[part] = [contact[part]];
    return changes;
  }
}
