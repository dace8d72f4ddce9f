/** What an archive's name can be made of, each in curly brackets in a pattern. */
export const nameParts = {
  ticket: 'Ticket number',
  date: 'Date, as 2026-11-25',
  time: 'Time, as 1405',
  family: 'Device family',
  model: 'Model',
  device: 'The device’s own name',
  serial: 'Last four characters of the serial',
  customer: 'Customer’s name',
} as const;
export type NamePart = keyof typeof nameParts;

export const defaultNamePattern = '{ticket}_{date}-{time}_{family}-{model}_{serial}';

/** What is wrong with a pattern, in a sentence; null when nothing is. */
export function patternProblem(pattern: string): string | null {
  const unknown = [...pattern.matchAll(/\{([^}]*)\}/g)].find(([, name]) => !isPart(name ?? ''));
  if (unknown) return `There is no part called ${unknown[0]}.`;
  if (!pattern.includes('{ticket}') || !pattern.includes('{date}'))
    return 'A name must carry {ticket} and {date}, so that it can be found on a drive.';
  if (pattern.length > 120) return 'That pattern is too long.';
  return null;
}

const isPart = (name: string): name is NamePart => Object.hasOwn(nameParts, name);

/** The longest name of a folder that every file system takes, with room for what is added to it. */
const LONGEST = 120;

/** A name after a pattern: only letters, digits, `-` and `_`, so that it means the same on every drive. */
export function nameAfter(pattern: string, parts: Readonly<Record<NamePart, string>>): string {
  const filled = pattern.replace(/\{([^}]*)\}/g, (all, name: string) =>
    isPart(name) ? plain(parts[name]) : all,
  );
  return plain(filled).slice(0, LONGEST);
}

function plain(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[’']/g, '')
    .replace(/[^\p{L}\p{N}_-]+/gu, '-')
    .replace(/^-+|-+$/g, '');
}
