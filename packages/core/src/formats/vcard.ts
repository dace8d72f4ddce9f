import VCard from 'vcf';
import type { CardPicture, Contact } from '../records/contact.js';
import { oldText, unquoted, type RecordFormat } from './define.js';
import { withoutQuoted } from './old-text.js';

/**
 * A card of any version (RFC 6350, RFC 2426, and versit's 2.1 of 1996 with quoted-printable). Cards before 4.0 may name an
 * encoding of their own: what is not UTF-8 is taken for ISO 8859-1.
 */
export const vcard: RecordFormat<'contacts'> = {
  mediaType: 'text/vcard',
  kind: 'contacts',
  parse(contents) {
    const text = withoutQuoted(
      oldText(contents),
      (head, value) => `${named(head)}:${value}`,
    ).replace(/\r?\n/g, '\r\n');
    return {
      kind: 'contacts',
      contacts: text.split(/^(?=BEGIN:VCARD)/gim).map((card) => contactOf(new VCard().parse(card))),
    };
  },
  write: ({ contacts }) => writeCards(contacts, '4.0'),
};

/** The same, written as RFC 2426 (3.0) under the media type of its time (RFC 2425), for devices that know no later one. */
export const directoryCard: RecordFormat<'contacts'> = {
  mediaType: 'text/directory',
  kind: 'contacts',
  parse: (contents, path) => vcard.parse(contents, path),
  write: ({ contacts }) => writeCards(contacts, '3.0'),
};

/** Cards of RFC 6350 (4.0), or of RFC 2426 (3.0), which is what address books on servers agree on. */
export function writeCards(
  contacts: readonly Contact[],
  version: '3.0' | '4.0',
  /** What tells each from all others, where somebody wants to know. */
  uids: readonly string[] = [],
): Uint8Array {
  const cards = contacts.map((contact, at) => {
    const { name, numbers, emails, addresses, birthday, organisation, note, picture } = contact;
    const lines = [
      ...(uids[at] === undefined ? [] : [`UID:${uids[at]}`]),
      // 3.0 wants the parts of a name; who wrote it knew them, and we no longer do.
      ...(version === '3.0' ? [`N:${escaped(name)};;;;`] : []),
      `FN:${escaped(name)}`,
      ...numbers.map((number) => `TEL:${escaped(number)}`),
      ...emails.map((email) => `EMAIL:${escaped(email)}`),
      // The street is what people read an address by.
      ...addresses.map((address) => `ADR:;;${escaped(address)};;;;`),
      ...(birthday ? [`BDAY:${birthday.replace(/(?<=\d)-/g, '')}`] : []),
      ...(organisation ? [`ORG:${escaped(organisation)}`] : []),
      ...(note ? [`NOTE:${escaped(note)}`] : []),
      ...(picture ? [folded(`PHOTO${pictureAs(picture, version)}`)] : []),
    ];
    return ['BEGIN:VCARD', `VERSION:${version}`, ...lines, 'END:VCARD', ''].join('\r\n');
  });
  return new TextEncoder().encode(cards.join(''));
}

const pictureAs = ({ mediaType, base64 }: CardPicture, version: '3.0' | '4.0'): string =>
  version === '4.0'
    ? `:data:${mediaType};base64,${base64}`
    : `;ENCODING=b;TYPE=${mediaType.slice('image/'.length).toUpperCase()}:${base64}`;

/** Old cards may leave out which of their parameters it is. */
const named = (head: string): string => head.replace(/;(?=QUOTED-PRINTABLE)/i, ';ENCODING=');

function contactOf(card: VCard): Contact {
  const many = (name: string) => {
    const found = card.get(name);
    return found === undefined ? [] : Array.isArray(found) ? found : [found];
  };
  const [full] = many('fn');
  const [structured] = many('n');
  const [family = '', given = ''] = structured ? partsOf(structured) : [];
  return {
    name: full ? decoded(full) : `${given} ${family}`.trim(),
    // Version 4.0 may write a number as an address of the web (RFC 3966).
    numbers: many('tel').map((tel) => decoded(tel).replace(/^tel:/i, '')),
    emails: many('email').map((email) => decoded(email)),
    addresses: many('adr').map((address) => {
      // Post office box and extension come after the street, as people write them.
      const [box = '', extension = '', street = '', ...rest] = partsOf(address);
      return [street, extension, box, ...rest].filter((part) => part !== '').join(', ');
    }),
    birthday: dayOf(many('bday')[0]),
    organisation: many('org')
      .slice(0, 1)
      .map((one) => partsOf(one).filter(Boolean).join(', '))
      .join(''),
    note: many('note')
      .map((one) => decoded(one))
      .join('\n'),
    picture: pictureOf(many('photo')[0]),
  };
}

const PICTURES: Record<string, string> = {
  ...{ jpeg: 'image/jpeg', jpg: 'image/jpeg', png: 'image/png', gif: 'image/gif' },
  webp: 'image/webp',
};

/** Inside the card, as 4.0 (a `data:` URI) or earlier ones have it; one that lies elsewhere is never fetched. */
function pictureOf(property: VCard.Property | undefined): CardPicture | null {
  if (!property) return null;
  const text = unescaped(textOf(property));
  const { encoding, type } = property as unknown as { encoding?: string; type?: string | string[] };
  const [, said, data] = /^data:image\/([a-z]+);base64,(.*)$/is.exec(text) ?? [];
  const isInside = data !== undefined || /^b(?:ase64)?$/i.test(encoding ?? '');
  const names = said === undefined ? [type ?? 'jpeg'].flat() : [said];
  const mediaType = names.flatMap((name) => PICTURES[name.toLowerCase()] ?? [])[0];
  const base64 = (data ?? text).replace(/\s+/g, '');
  const isWhole = base64.length % 4 === 0 && /^[A-Za-z0-9+/]+={0,2}$/.test(base64);
  return isInside && isWhole && mediaType !== undefined ? { mediaType, base64 } : null;
}

/** A long line as cards have it (RFC 6350, section 3.2). @param line ASCII */
export const folded = (line: string): string => (line.match(/.{1,74}/gs) ?? []).join('\r\n ');

/** A value of several parts, between semicolons that are not escaped. */
function partsOf(property: VCard.Property): string[] {
  return decoded(property, (text) => text)
    .split(/(?<=(?<!\\)(?:\\\\)*);/)
    .map(unescaped);
}

/** Empty where nothing stands behind its colon. */
const textOf = (property: VCard.Property): string => property.valueOf() ?? '';

/** RFC 6350, section 3.4. */
const escaped = (text: string) =>
  text.replaceAll(/[\\,;]/g, '\\$&').replaceAll(/\r\n|\r|\n/g, '\\n');
const unescaped = (text: string) =>
  text.replaceAll(/\\([\\,;nN])/g, (_, sign: string) => (/n/i.test(sign) ? '\n' : sign));

/** Old cards write other letters as `=E9`, in the encoding they name. */
function decoded(property: VCard.Property, plain = unescaped): string {
  const text = textOf(property);
  const { encoding, charset } = property as unknown as { encoding?: string; charset?: string };
  if (encoding?.toUpperCase() !== 'QUOTED-PRINTABLE') return plain(text);
  return unquoted(text, charset);
}

/** A day, with or without its year and its dashes (RFC 6350, section 6.2.5); empty for what is none. */
function dayOf(property: VCard.Property | undefined): string {
  const text = property ? textOf(property) : '';
  const [, year, month, day] = /^(\d{4}|--)-?(\d\d)-?(\d\d)/.exec(text) ?? [];
  return year && month && day ? `${year === '--' ? '-' : year}-${month}-${day}` : '';
}
