import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Writes another note on the cards of some people, as their owner would: on a handset, or on a server that keeps cards as files. */
export function writeNotes(folder: string, notes: Readonly<Record<string, string>>): void {
  for (const file of readdirSync(folder).filter((name) => name.endsWith('.vcf'))) {
    const path = join(folder, file);
    const text = readFileSync(path, 'latin1');
    const [, note] = Object.entries(notes).find(([name]) => text.includes(name)) ?? [];
    if (note === undefined) continue;
    const without = text.replace(/^NOTE.*\r?\n(?:[ \t].*\r?\n)*/gm, '');
    writeFileSync(path, without.replace('END:VCARD', `NOTE:${note}\r\nEND:VCARD`), 'latin1');
  }
}

/** The notes on all cards of a folder. */
export const notesIn = (folder: string): string[] =>
  readdirSync(folder)
    .filter((name) => name.endsWith('.vcf'))
    .flatMap(
      (name) => /^NOTE:(.*?)\r?$/m.exec(readFileSync(join(folder, name), 'latin1'))?.[1] ?? [],
    )
    .toSorted();
