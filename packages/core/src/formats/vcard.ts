import quotedPrintable from 'quoted-printable';
import VCard from 'vcf';
import type { RecordFormat } from './define.js';

/**
 * A card of any version (RFC 6350, RFC 2426, and versit's 2.1 of 1996 with quoted-printable). Cards before 4.0 may name an
 * encoding of their own: what is not UTF-8 is taken for ISO 8859-1.
 */
export const vcard: RecordFormat<'contacts'> = {
  mediaType: 'text/vcard',
  kind: 'contacts',
  parse(contents) {
    const text = decodedText(contents).replace(/\r?\n/g, '\r\n');
    return { kind: 'contacts', contacts: [contactOf(new VCard().parse(text))] };
  },
};

function contactOf(card: VCard) {
  const many = (name: string) => {
    const found = card.get(name);
    return found === undefined ? [] : Array.isArray(found) ? found : [found];
  };
  const [full] = many('fn');
  const [structured] = many('n');
  const [family = '', given = ''] = structured ? decoded(structured).split(';') : [];
  return {
    name: full ? decoded(full) : `${given} ${family}`.trim(),
    numbers: many('tel').map((tel) => tel.valueOf()),
  };
}

function decodedText(contents: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(contents);
  } catch {
    return new TextDecoder('latin1').decode(contents);
  }
}

/** Old cards write other letters as `=E9`, in the encoding they name. */
function decoded(property: VCard.Property): string {
  const text = property.valueOf();
  const { encoding, charset } = property as unknown as { encoding?: string; charset?: string };
  if (encoding?.toUpperCase() !== 'QUOTED-PRINTABLE') return text;
  const bytes = Uint8Array.from(quotedPrintable.decode(text), (c) => c.charCodeAt(0));
  return new TextDecoder(charset?.toLowerCase() === 'utf-8' ? 'utf-8' : 'latin1').decode(bytes);
}
