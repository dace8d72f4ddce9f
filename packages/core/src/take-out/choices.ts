import { z } from 'zod';

/** How what is taken out is written. */
export const takeOutChoicesSchema = z.object({
  conversations: z.enum(['html', 'pdf', 'csv', 'jsonl', 'xml']),
  /** With the pictures and files that came with what was said. */
  withMedia: z.enum(['all', 'without-videos', 'none']),
  /** Only what was said, called or looked at from this day on, and until that one; days of the clock that is chosen. */
  since: z.iso.date().nullable(),
  until: z.iso.date().nullable(),
  contacts: z.enum(['vcard-4', 'vcard-3', 'csv']),
  notes: z.enum(['markdown', 'html']),
  /** What photographs and videos are called. */
  pattern: z.string().trim().min(1).max(120),
  folders: z.enum(['month', 'album', 'one']),
  /** Whose clock times are told by: the shop’s, or UTC. */
  times: z.enum(['shop', 'utc']),
});
export type TakeOutChoices = z.infer<typeof takeOutChoicesSchema>;

export const usualTakeOut: TakeOutChoices = {
  ...{
    conversations: 'html',
    withMedia: 'all',
    since: null,
    until: null,
    contacts: 'vcard-4',
    notes: 'markdown',
  },
  ...{ pattern: '{date}_{time}_{counter}', folders: 'month', times: 'shop' },
};

/** What a photograph’s name can be made of, each in curly brackets. */
export const photographNameParts = {
  date: 'When it was taken, as 2026-11-25',
  time: 'The time, as 140509',
  place: 'Where, in degrees',
  album: 'Its album',
  counter: 'A number of its own',
  original: 'The name that it has',
} as const;
type Part = keyof typeof photographNameParts;

/** What is wrong with a pattern, in a sentence; null when nothing is. */
export function photographPatternProblem(pattern: string): string | null {
  const unknown = [...pattern.matchAll(/\{([^}]*)\}/g)].find(
    ([, name]) => !Object.hasOwn(photographNameParts, name ?? ''),
  );
  if (unknown) return `There is no part called ${unknown[0]}.`;
  if (!/\{(?:counter|original)\}/.test(pattern))
    return 'A name must carry {counter} or {original}: two would be called the same.';
  return null;
}

export interface NamedPhotograph {
  /** Where it lies on the device. */
  path: string;
  at: Date;
  album: string;
  place: { latitude: number; longitude: number } | null;
}

/** A photograph’s name after a pattern, without its folders, with the ending that it has. @param counter from 1 */
export function photographName(
  pattern: string,
  { path, at, album, place }: NamedPhotograph,
  counter: number,
  zone: string,
): string {
  const file = path.slice(path.lastIndexOf('/') + 1);
  const dot = file.lastIndexOf('.');
  const [original, ending] = dot > 0 ? [file.slice(0, dot), file.slice(dot)] : [file, ''];
  const there = new Date(at.toLocaleString('sv-SE', { timeZone: zone }).replace(' ', 'T') + 'Z');
  const iso = there.toISOString();
  const parts: Record<Part, string> = {
    date: iso.slice(0, 10),
    time: iso.slice(11, 19).replaceAll(':', ''),
    place: place ? degrees(place) : 'nowhere',
    album,
    counter: String(counter).padStart(4, '0'),
    original,
  };
  const filled = pattern.replace(/\{([^}]*)\}/g, (_, name: string) => parts[name as Part]);
  return safeName(filled) + ending.replace(/[^.\p{L}\p{N}]/gu, '');
}

const degrees = ({ latitude, longitude }: { latitude: number; longitude: number }) =>
  `${Math.abs(latitude).toFixed(2)}${latitude < 0 ? 'S' : 'N'}-${Math.abs(longitude).toFixed(2)}${longitude < 0 ? 'W' : 'E'}`;

const LONGEST = 100;

/** A name that every file system takes, and that leads nowhere else. */
export function safeName(text: string): string {
  const plain = text
    .normalize('NFC')
    .replace(/[\p{C}\p{Surrogate}\\/:*?"<>|]+/gu, '_')
    .slice(0, LONGEST)
    .replace(/^[.\s]+|[.\s]+$/g, '');
  // Names of devices on some systems, whatever their ending.
  return /^(?:con|prn|aux|nul|com\d|lpt\d)(?:\.|$)/i.test(plain) || plain === ''
    ? `_${plain}`
    : plain;
}

/** Paths of one package: none is given twice, whatever a file system thinks of capital letters. */
export class Paths {
  readonly #given = new Set<string>();

  /** The path, or the next that is free. @param path of names that are safe, between slashes */
  free(path: string): string {
    const dot = path.lastIndexOf('.');
    const isEnding = dot > path.lastIndexOf('/') + 1;
    const [head, ending] = isEnding ? [path.slice(0, dot), path.slice(dot)] : [path, ''];
    for (let n = 1; ; n++) {
      const next = n === 1 ? path : `${head}-${n}${ending}`;
      const key = next.toLowerCase();
      if (this.#given.has(key)) continue;
      this.#given.add(key);
      return next;
    }
  }
}
