import { z } from 'zod';

/** Fields of records in which a device may keep fewer letters than somebody wrote. */
const letterFields = ['name', 'organisation', 'place', 'note', 'words'] as const;
type LetterField = (typeof letterFields)[number];

/** How many letters of a field are kept; of the others, all. */
export const lettersSchema = z.partialRecord(z.enum(letterFields), z.int().min(1).max(1e6));
export type Letters = z.infer<typeof lettersSchema>;

/** How each kind calls them. */
const properties: Readonly<Record<string, Partial<Record<LetterField, string>>>> = {
  contacts: { name: 'name', organisation: 'organisation', note: 'note' },
  events: { name: 'title', place: 'place', note: 'notes' },
  tasks: { name: 'title', note: 'notes' },
  notes: { words: 'text' },
};

/** A record as it is kept where only so many letters are; the very same where all of it is. @param kind of records */
export function shortened<T extends object>(kind: string, record: T, letters: Letters): T {
  let short = record;
  for (const [field, property] of Object.entries(properties[kind] ?? {})) {
    const most = letters[field as LetterField];
    const text = (record as Readonly<Record<string, unknown>>)[property];
    if (most === undefined || typeof text !== 'string') continue;
    const signs = Array.from(text);
    if (signs.length > most)
      short = { ...short, [property]: signs.slice(0, most).join('').trimEnd() };
  }
  return short;
}
