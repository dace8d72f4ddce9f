import { oldText } from './define.js';

/** One content line of a card or a calendar as it was written, or a component with all that is in it. */
export interface ContentLine {
  /** In capitals, without the group that it may be in. */
  name: string;
  /** With its line ends, and whatever it is folded or broken into. */
  raw: string;
  /** Of a component: what is in it, without its own two lines. */
  inner: ContentLine[] | null;
}

/** Each line with those that go on with it: folded (RFC 5545, 3.1), or broken by quoted-printable. */
function* wholeLines(text: string): Generator<string> {
  let whole = '';
  for (const line of text.match(/[^\n]*\n|[^\n]+$/g) ?? []) {
    const isBroken = /^[^:]*QUOTED-PRINTABLE[^]*=\r?\n$/i.test(whole);
    if (whole !== '' && !isBroken && !/^[ \t]/.test(line)) {
      yield whole;
      whole = '';
    }
    whole += line;
  }
  if (whole !== '') yield whole;
}

const nameOf = (raw: string): string =>
  /^(?:[\w-]+\.)?([\w-]*)/.exec(raw)?.[1]?.toUpperCase() ?? '';
const componentOf = (raw: string): string =>
  raw
    .slice(raw.indexOf(':') + 1)
    .trim()
    .toUpperCase();

/** @throws Error where a component does not end */
export function contentLines(text: string): ContentLine[] {
  const top: ContentLine[] = [];
  const open: { name: string; inner: ContentLine[] }[] = [];
  for (const raw of wholeLines(text.replaceAll(/\r\n?/g, '\n'))) {
    const name = nameOf(raw);
    const into = open.at(-1)?.inner ?? top;
    if (name === 'BEGIN') {
      const inner: ContentLine[] = [];
      into.push({ name: componentOf(raw), raw: '', inner });
      open.push({ name: componentOf(raw), inner });
    } else if (name === 'END') {
      if (open.pop()?.name !== componentOf(raw)) throw new Error('a component without an end');
    } else into.push({ name, raw: raw.endsWith('\n') ? raw : `${raw}\n`, inner: null });
  }
  if (open.length > 0) throw new Error('a component without an end');
  return top;
}

export const contentText = (lines: readonly ContentLine[]): string =>
  lines
    .map(({ name, raw, inner }) =>
      inner === null ? raw : `BEGIN:${name}\n${contentText(inner)}END:${name}\n`,
    )
    .join('');

/** As it was read: UTF-8, or ISO 8859-1 where it was none. */
export function asRead(text: string, contents: Uint8Array): Uint8Array {
  const lines = text.replaceAll('\n', '\r\n');
  const utf8 = new TextEncoder().encode(oldText(contents));
  const isUtf8 = utf8.length === contents.length && utf8.every((byte, at) => byte === contents[at]);
  // Letters that the old encoding does not have make it new.
  const hasOthers = /[\u0100-\uffff]/.test(lines);
  return isUtf8 || hasOthers
    ? new TextEncoder().encode(lines)
    : Uint8Array.from(lines, (letter) => letter.charCodeAt(0));
}
