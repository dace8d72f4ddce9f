import quotedPrintable from 'quoted-printable';
import VCard from 'vcf';
import { countLosses, isTorn, type RecordFormat } from './define.js';

/**
 * A card of any version (RFC 6350, RFC 2426, and versit's 2.1 of 1996 with quoted-printable). Cards before 4.0 may name an
 * encoding of their own: what is not UTF-8 is taken for ISO 8859-1.
 */
export const vcard: RecordFormat<'contacts'> = {
  mediaType: 'text/vcard',
  kind: 'contacts',
  parse(contents) {
    const text = decodedText(contents).replace(/\r?\n/g, '\r\n');
    return {
      kind: 'contacts',
      contacts: text.split(/^(?=BEGIN:VCARD)/gim).map((card) => contactOf(new VCard().parse(card))),
    };
  },
  write({ contacts }) {
    const cards = contacts.map(({ name, numbers }) => {
      const lines = [`FN:${escaped(name)}`, ...numbers.map((number) => `TEL:${escaped(number)}`)];
      return ['BEGIN:VCARD', 'VERSION:4.0', ...lines, 'END:VCARD', ''].join('\r\n');
    });
    return new TextEncoder().encode(cards.join(''));
  },
  losses: ({ contacts }) =>
    countLosses(contacts, {
      letters: ({ name, numbers }) => isTorn(name + numbers.join('')),
      'line-breaks': ({ name, numbers }) => (name + numbers.join('')).includes('\r'),
    }),
};

function contactOf(card: VCard) {
  const many = (name: string) => {
    const found = card.get(name);
    return found === undefined ? [] : Array.isArray(found) ? found : [found];
  };
  const [full] = many('fn');
  const [structured] = many('n');
  const [family = '', given = ''] = structured ? partsOf(structured) : [];
  return {
    name: full ? decoded(full) : `${given} ${family}`.trim(),
    numbers: many('tel').map((tel) => unescaped(textOf(tel))),
  };
}

function decodedText(contents: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(contents);
  } catch {
    return new TextDecoder('latin1').decode(contents);
  }
}

/** A value of several parts, between semicolons that are not escaped. */
function partsOf(property: VCard.Property): string[] {
  return decoded(property, (text) => text)
    .split(/(?<!\\);/)
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
  const bytes = Uint8Array.from(quotedPrintable.decode(text), (c) => c.charCodeAt(0));
  return new TextDecoder(charset?.toLowerCase() === 'utf-8' ? 'utf-8' : 'latin1').decode(bytes);
}
