import quotedPrintable from 'quoted-printable';

/** Not ISO 8859-1, or what browsers read as Windows' own letters in the place of its control characters. */
const notLatin = /[^\p{ASCII}\u00a0-\u00ff]/gu;

/** Marks of printers that a handset has a plainer one for. */
const plainer: Readonly<Record<string, string>> = {
  ...{ '‘': "'", '’': "'", '‚': "'", '“': '"', '”': '"', '„': '"', '–': '-', '—': '-', '…': '...' },
  ...{ '\u202f': '\u00a0', '\u2009': ' ', '•': '*', '€': 'EUR' },
};

/** Text as a keyboard handset keeps it: ISO 8859-1; a plainer mark where there is one, and `?` for any other letter. */
export const latinBytes = (text: string): Uint8Array =>
  Uint8Array.from(
    text.replaceAll(notLatin, (letter) => plainer[letter] ?? '?'),
    (letter) => letter.charCodeAt(0),
  );

/** Stands in a line of versit's formats (1996) as it is; all else is quoted. */
const plain = /^(?! )[\x20-\x5b\x5d-\x7e]*(?<! )$/;

/** One property of vCard 2.1 or vCalendar 1.0, quoted where it must be. @param parts of its value, where it has several */
export function oldProperty(name: string, ...parts: readonly string[]): string {
  const escaped = parts.length > 1 ? parts.map((part) => part.replaceAll(/[\\;]/g, '\\$&')) : parts;
  const value = escaped.join(';').replaceAll(/\r\n|\r|\n/g, '\r\n');
  if (plain.test(value)) return `${name}:${value}`;
  const latin = String.fromCharCode(...latinBytes(value));
  return `${name};CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:${quotedPrintable.encode(latin)}`;
}

export const oldFile = (lines: readonly string[]): Uint8Array =>
  latinBytes(`${lines.join('\r\n')}\r\n`);

/** A property that is quoted, over all the lines that it is broken into (RFC 2045, section 6.7). */
const quoted =
  /^([^:\n]*;(?:ENCODING=)?QUOTED-PRINTABLE[^:\n]*):((?:[^\n]*=\r?\n)*[^\r\n]*)(\r?\n|$)/gim;

/** The same text with something else in the place of each quoted property. @param instead of its head, and its value as one line */
export const withoutQuoted = (
  text: string,
  instead: (head: string, value: string) => string,
): string =>
  text.replace(
    quoted,
    (_, head: string, value: string, end: string) =>
      instead(head, value.replaceAll(/=\r?\n/g, '')) + end,
  );
