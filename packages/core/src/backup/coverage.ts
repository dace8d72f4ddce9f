import { z } from 'zod';
import { isChosen, type Choice } from './choice.js';
import {
  dataClasses,
  dataClassIds,
  sensitiveClasses,
  type DataClass,
  type ClassAmount,
  type DeviceFacts,
} from '../device/index.js';
import { countOf, formatBytes } from '../values/index.js';

/** One line of what a backup holds, and does not. */
export const coverageLineSchema = z.object({
  id: z.string(),
  what: z.string(),
  state: z.enum(['inside', 'partly', 'outside']),
  /** How much of it, or why not. */
  why: z.string(),
  /** How what is not inside comes back; null where everything is inside. */
  returns: z.string().nullable(),
});
export type CoverageLine = z.infer<typeof coverageLineSchema>;

/** What a backup is about to take. */
export interface PlannedScope {
  choice: Choice;
  encrypted: boolean;
}

export interface CoverageGroup {
  class: DataClass;
  id: string;
  name: string;
  items: number;
  bytes: number;
  sealed: boolean;
  offered: boolean | null;
}

/** In no backup of any device, and how each comes back. */
const never: readonly Omit<CoverageLine, 'state'>[] = [
  {
    id: 'payment-cards',
    what: 'Payment cards',
    why: 'They are tied to the chip of this one device.',
    returns: 'The customer adds each card again, with their bank.',
  },
  {
    id: 'enrolment',
    what: 'Fingerprint and face',
    why: 'They never leave the device.',
    returns: 'The customer enrols them again.',
  },
  {
    id: 'server-mail',
    what: 'Mail that lives on its server',
    why: 'The device only shows it.',
    returns: 'It is fetched again once the mail account is signed in.',
  },
  {
    id: 'offline-maps',
    what: 'Maps kept for offline use',
    why: 'They can be downloaded and are left out.',
    returns: 'Download them again over Wi-Fi.',
  },
  {
    id: 'store-content',
    what: 'Applications themselves, and what the store sold',
    why: 'The store gives them out again; their data is inside.',
    returns: 'They download by themselves after the restore, over Wi-Fi.',
  },
  {
    id: 'synced',
    what: 'Items synced from another computer',
    why: 'That computer has them.',
    returns: 'Sync with that computer again.',
  },
  {
    id: 'online-only',
    what: 'What lives only in the customer’s online account',
    why: 'Full-size photographs and messages kept online are not on the device.',
    returns: 'They return when the customer signs in to their account, if it still has them.',
  },
];

/** Of a folder that somebody else recovered from a device. */
const notRecovered: CoverageLine = {
  id: 'not-recovered',
  what: 'What could not be recovered',
  state: 'outside',
  why: 'Nobody here can say what it was: the device itself was not read.',
  returns: 'Ask whoever recovered it for a list of what is missing.',
};

/** Of a device whose storage alone is read. */
const notMounted: CoverageLine = {
  id: 'not-mounted',
  what: 'What the device does not keep on this storage',
  state: 'outside',
  why: 'Only its storage is mounted: contacts, messages, call log, settings and what applications keep for themselves lie elsewhere on it.',
  returns: 'Only from the device itself: erase nothing because of this backup.',
};

/** What is said of a folder that somebody else recovered from a device: nobody here read the device itself. */
export function recoveredCoverage(amount: { items: number; bytes: number }): CoverageLine[] {
  return [
    notRecovered,
    ...never.map((line) => ({ ...line, state: 'outside' as const })),
    {
      id: 'recovered',
      what: 'All that was recovered',
      state: 'inside',
      why: amountWords(amount),
      returns: null,
    },
  ];
}

/** Whether a class would be left out by the device because the backup is not encrypted. */
export function isWithheld(
  device: Pick<DeviceFacts, 'capabilities'>,
  dataClass: DataClass,
  encrypted: boolean,
): boolean {
  return (
    !encrypted && device.capabilities.sensitiveOnlyEncrypted && sensitiveClasses.has(dataClass)
  );
}

const amountWords = ({ items, bytes }: { items: number; bytes: number }) =>
  `${countOf(items, 'item')}, ${formatBytes(bytes)}`;

/**
 * What would be inside, what would not, why, and how it comes back. What is outside stands first.
 * @param chosen how much of each class the choice takes
 */
export function coverageOf(
  device: DeviceFacts,
  scope: PlannedScope,
  chosen: readonly ClassAmount[],
  groups: readonly CoverageGroup[] = [],
): CoverageLine[] {
  const lines: CoverageLine[] = [];
  for (const dataClass of dataClassIds) {
    const there = (device.content ?? []).find((c) => c.class === dataClass);
    if (!there || there.items === 0) continue;
    const taken = chosen.find((c) => c.class === dataClass) ?? { items: 0, bytes: 0 };
    lines.push(classLine(device, scope, there, taken, groups));
  }
  if (!scope.encrypted && device.capabilities.sensitiveOnlyEncrypted) {
    lines.push({
      id: 'networks',
      what: 'Wi-Fi networks and their keys',
      state: 'outside',
      why: 'The device gives them out only for an encrypted backup.',
      returns: 'Switch encryption on, or the customer types each key again.',
    });
  }
  const { backup } = device.capabilities;
  if (backup === 'recovered') lines.push(notRecovered);
  if (backup === 'storage') lines.push(notMounted);
  if (device.wearable !== null) {
    lines.push({
      id: 'wearable',
      what: `What only ${device.wearable} holds`,
      state: 'outside',
      why: 'A wearable hands its data over when it is unpaired.',
      returns: `Unpair ${device.wearable} on the device, then take the backup.`,
    });
  }
  for (const group of groups) {
    const inside = isChosen(scope.choice, { class: group.class, group: group.id, id: '' });
    if (group.offered === false && inside && !group.sealed) {
      lines.push({
        id: `withdrawn-${group.id}`,
        what: group.name,
        state: 'partly',
        why: 'Its data is inside, but the store no longer offers the application.',
        returns: 'It does not come back by itself: tell the customer now.',
      });
    }
  }
  lines.push(...never.map((line) => ({ ...line, state: 'outside' as const })));
  const rank = { outside: 0, partly: 1, inside: 2 };
  const isNever = (line: CoverageLine) => never.some(({ id }) => id === line.id);
  return lines.sort(
    (a, b) => Number(isNever(a)) - Number(isNever(b)) || rank[a.state] - rank[b.state],
  );
}

function classLine(
  device: DeviceFacts,
  scope: PlannedScope,
  there: ClassAmount,
  taken: { items: number; bytes: number },
  groups: readonly CoverageGroup[],
): CoverageLine {
  const line = { id: there.class, what: dataClasses[there.class] };
  if (isWithheld(device, there.class, scope.encrypted)) {
    return {
      ...line,
      state: 'outside',
      why: `The device gives it out only for an encrypted backup (${amountWords(there)}).`,
      returns: 'Switch encryption on.',
    };
  }
  const sealed = groups.filter((g) => g.class === there.class && g.sealed);
  if (taken.items === 0) {
    return {
      ...line,
      state: 'outside',
      why: `Not chosen (${amountWords(there)}).`,
      returns: 'Only from the device itself, or from another backup.',
    };
  }
  if (sealed.length > 0) {
    return {
      ...line,
      state: 'partly',
      why: `${sealed.map((g) => g.name).join(' and ')} keep${sealed.length === 1 ? 's' : ''} a sealed store.`,
      returns: `Confirm the number in ${sealed.map((g) => g.name).join(' and ')} on the device, then take the backup.`,
    };
  }
  if (taken.items < there.items) {
    const left = { items: there.items - taken.items, bytes: there.bytes - taken.bytes };
    return {
      ...line,
      state: 'partly',
      why: `${amountWords(taken)} of it; ${amountWords(left)} not chosen.`,
      returns: 'What was not chosen: only from the device itself.',
    };
  }
  return { ...line, state: 'inside', why: amountWords(there), returns: null };
}

/** Whether all that can be taken of it is only a part of a device, whatever is chosen. */
export const isPartOnly = ({ capabilities }: Pick<DeviceFacts, 'capabilities'>): boolean =>
  capabilities.backup === 'storage' || capabilities.backup === 'recovered';

/** Whether a backup of this scope holds everything that the device gives out: the only kind that an erase may rest on. */
export function holdsEverything(device: DeviceFacts, scope: PlannedScope): boolean {
  return (
    !isPartOnly(device) &&
    dataClassIds.every((c) => {
      // Where nothing can be listed, each class may be there.
      const there = device.content?.some((a) => a.class === c && a.items > 0) ?? true;
      return !there || (scope.choice[c] === true && !isWithheld(device, c, scope.encrypted));
    }) &&
    !Object.values(scope.choice).includes(false)
  );
}
