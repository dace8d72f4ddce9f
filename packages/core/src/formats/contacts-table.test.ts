import fc from 'fast-check';
import { expect, test } from 'vitest';
import { noContact } from '../records/contact.js';
import { contactsFile } from '../take-out/lists.js';
import { ContactsTable } from './contacts-table.js';
import { tableText } from './record-table.js';

const table = (text: string): ContactsTable => {
  const read = ContactsTable.read(tableText(text));
  if (!read) throw new Error('none');
  return read;
};
const rows = (of: ContactsTable) => of.rows();

test('columns are known by what is written above them, and what nobody changed is as it was', () => {
  const text =
    'First name;Last name;Group;Mobile phone;Work phone;E-mail;Birthday;Notes\r\n' +
    'Ana;Fernhill;Choir;+44 7700 900111;;ana@post.example;1984-02-29;"Mill; weir"\r\n' +
    'Ben;;;0151 496 0000;;;someday;=1+1\r\n';
  const read = table(text);
  expect(read.rows().map(({ record }) => record)).toEqual([
    {
      ...{ ...noContact, name: 'Ana Fernhill', numbers: ['+44 7700 900111'] },
      ...{ emails: ['ana@post.example'], birthday: '1984-02-29', note: 'Mill; weir' },
    },
    { ...noContact, name: 'Ben', numbers: ['0151 496 0000'], note: '=1+1' },
  ]);
  expect(read.write(rows(read))).toBe(text);
});

test('only what changes is written, each value in a column of its kind; who is new gets a row', () => {
  const read = table('Name,Phone,Phone 2,Company,Colour\r\nAna,1,,Mill,red\r\nBen,2,,,blue\r\n');
  const [ana, ben] = rows(read);
  if (!ana || !ben) throw new Error('none');
  const written = read.write([
    { ...ana, record: { ...ana.record, numbers: ['1', '+44 5', '6'] } },
    { row: null, record: { ...noContact, name: 'Cas, Tarn', organisation: '=cmd' } },
  ]);
  expect(written).toBe(
    'Name,Phone,Phone 2,Company,Colour\r\nAna,1,+44 5; 6,Mill,red\r\n"Cas, Tarn",,,\'=cmd,\r\n',
  );
});

test('what says nobody’s name is no table of contacts', () => {
  expect(ContactsTable.read(tableText('only words'))).toBeNull();
  expect(ContactsTable.read(tableText(''))).toBeNull();
  expect(ContactsTable.read(tableText('colour,size\r\nred,5\r\n'))).toBeNull();
});

test('a table that this program wrote comes back as it was meant', () => {
  const word = fc.stringMatching(/^[A-Za-z+=@][A-Za-z0-9 ]{0,8}[a-z]$/);
  const list = fc.uniqueArray(word, { maxLength: 3 });
  const some = fc.array(
    fc.record({
      ...{ name: word, numbers: list, emails: list, addresses: list, note: word },
      birthday: fc.constantFrom('', '1984-02-29', '--12-31'),
      ...{ organisation: word, picture: fc.constant(null) },
    }),
    { minLength: 1, maxLength: 4 },
  );
  fc.assert(
    fc.property(some, (contacts) => {
      const read = table(contactsFile(contacts, 'csv'));
      expect(read.rows().map(({ record }) => record)).toEqual(contacts);
    }),
  );
});
