import quotedPrintable from 'quoted-printable';
import VCard from 'vcf';

/** Numbers as they compare: digits, and a leading plus. */
export const plainNumber = (number: string): string => number.replace(/[^\d+]/g, '');

/** Whose each number is, out of vCards of any version (RFC 6350, and 2.1 with quoted-printable). */
export function namesIn(card: string): [number: string, name: string][] {
  const parsed = new VCard().parse(card.replace(/\r?\n/g, '\r\n'));
  const many = (name: string) => {
    const found = parsed.get(name);
    return found === undefined ? [] : Array.isArray(found) ? found : [found];
  };
  const [full] = many('fn');
  const [structured] = many('n');
  const [family = '', given = ''] = structured ? decoded(structured).split(';') : [];
  const name = full ? decoded(full) : `${given} ${family}`.trim();
  if (name === '') return [];
  return many('tel').map((tel) => [plainNumber(tel.valueOf()), name]);
}

/** Old cards write other letters as `=E9`, in the encoding they name. */
function decoded(property: VCard.Property): string {
  const text = property.valueOf();
  const { encoding, charset } = property as unknown as { encoding?: string; charset?: string };
  if (encoding?.toUpperCase() !== 'QUOTED-PRINTABLE') return text;
  const bytes = Uint8Array.from(quotedPrintable.decode(text), (c) => c.charCodeAt(0));
  return new TextDecoder(charset?.toLowerCase() === 'utf-8' ? 'utf-8' : 'latin1').decode(bytes);
}
