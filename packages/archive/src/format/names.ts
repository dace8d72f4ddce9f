import { Failure } from '@bright-cellar/core';

/**
 * Names of customers' files as text. POSIX names are bytes, mostly UTF-8; a byte that is not is written
 * as the lone surrogate U+DC00 + byte, so that every name has one text and comes back as it was.
 */
const REPLACEMENT = '\ufffd';

export function textOfName(name: Buffer): string {
  const text = name.toString('utf8');
  if (!text.includes(REPLACEMENT) || Buffer.from(text).equals(name)) return text;
  let result = '';
  for (let at = 0; at < name.length;) {
    const length = sequenceLength(name, at);
    result += length
      ? name.toString('utf8', at, at + length)
      : String.fromCharCode(0xdc00 + (name[at] ?? 0));
    at += length || 1;
  }
  return result;
}

/** Bytes of the well-formed UTF-8 sequence that begins there; 0 when none does. */
function sequenceLength(bytes: Buffer, at: number): number {
  const first = bytes[at] ?? 0;
  const length = first < 0x80 ? 1 : first < 0xe0 ? 2 : first < 0xf0 ? 3 : 4;
  const piece = bytes.subarray(at, at + length);
  return Buffer.from(piece.toString('utf8')).equals(piece) ? length : 0;
}

export function nameOfText(text: string): Buffer {
  if (!/\p{Surrogate}/u.test(text)) return Buffer.from(text);
  const parts: Buffer[] = [];
  for (const character of text) {
    const code = character.charCodeAt(0);
    const escaped = character.length === 1 && code >= 0xdc80 && code <= 0xdcff;
    parts.push(escaped ? Buffer.of(code - 0xdc00) : Buffer.from(character));
  }
  return Buffer.concat(parts);
}

/**
 * The parts of an item's path, for writing it below some folder.
 * @throws Failure `archive-damaged` for a path that would lead out of it.
 */
export function safeParts(path: string): string[] {
  const parts = path.split('/');
  if (path.includes('\0') || parts.some((part) => part === '' || part === '.' || part === '..')) {
    throw new Failure('archive-damaged', {
      what: 'The backup names a place outside the folder that it is unpacked into.',
    });
  }
  return parts;
}
