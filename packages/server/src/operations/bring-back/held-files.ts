import { randomUUID } from 'node:crypto';
import type { FileTold } from '@bright-cellar/contract';
import { Failure, type LinkDeviceId, type Mapping } from '@bright-cellar/core';
import {
  guessedMapping,
  nameKey,
  readBack,
  readOpenFile,
  type OpenFile,
  type ReadBack,
} from '@bright-cellar/core/extract';
import { kindOf } from '@bright-cellar/core/formats';
import type { DeviceLink } from '@bright-cellar/device-link';
import { gathered, RECORDS_AT_MOST, recordsOf } from '../cross/look-at-device.js';

/** An open file that somebody gave to bring back what is in it. */
interface Held {
  technicianId: string;
  deviceId: LinkDeviceId;
  file: OpenFile;
  mapping: Mapping;
  /** Whose number it is, as the device's contacts say, and whoever mapped it. */
  numbers: Map<string, string>;
  usedAt: number;
}

const HELD_MAX = 6;
const HELD_MS = 60 * 60_000;
const FIRST_LINES = 12;
const LEFT_OUT_TOLD = 20;

/** Files that were given, in the memory of the work process and nowhere else: what is in them is the customer's. */
const held = new Map<string, Held>();

function forgetOld(): void {
  for (const [id, { usedAt }] of held) {
    if (performance.now() - usedAt > HELD_MS) held.delete(id);
  }
  for (const id of [...held.keys()].slice(0, -HELD_MAX)) held.delete(id);
}
setInterval(forgetOld, 60_000).unref();

/** Takes a file. @throws Failure `input-not-valid` where nobody can read it */
export async function holdFile(
  link: DeviceLink,
  { technicianId, deviceId, text }: { technicianId: string; deviceId: LinkDeviceId; text: string },
): Promise<FileTold> {
  let file: OpenFile;
  try {
    file = readOpenFile(text);
  } catch {
    throw new Failure('input-not-valid', {
      what: 'That is no file of messages or calls that can be read here: JSON Lines, CSV, XML or a page (HTML).',
      next: 'Choose another; from a spreadsheet, save it as CSV.',
    });
  }
  const id = randomUUID();
  const numbers = await numbersOn(link, deviceId);
  const mapping = guessedMapping(file);
  held.set(id, { technicianId, deviceId, file, mapping, numbers, usedAt: performance.now() });
  forgetOld();
  return told(id);
}

/** Says how it is to be read, and whose numbers the names in it are. @throws Failure `not-found` */
export function mapFile(asked: {
  id: string;
  technicianId: string;
  mapping: Mapping;
  numbers: Readonly<Record<string, string>>;
}): FileTold {
  const one = held.get(asked.id);
  if (one?.technicianId !== asked.technicianId) throw goneFile();
  one.mapping = asked.mapping;
  one.usedAt = performance.now();
  for (const [name, number] of Object.entries(asked.numbers)) {
    if (number.trim() === '') one.numbers.delete(nameKey(name));
    else one.numbers.set(nameKey(name), number.trim());
  }
  return told(asked.id);
}

/** What comes back of it, for work that was started with it. @throws Failure `not-found` */
export function readHeld(id: string, technicianId: string): ReadBack {
  const one = held.get(id);
  if (one?.technicianId !== technicianId) throw goneFile();
  one.usedAt = performance.now();
  return readBack(one.file, one.mapping, one.numbers, zone());
}

/** Of what comes back of it. @throws Failure `not-found` */
export function amountHeld(id: string, technicianId: string): { items: number; bytes: number } {
  const { messages, calls } = readHeld(id, technicianId);
  const bytes = messages.reduce((sum, { text }) => sum + Buffer.byteLength(text), 0);
  return { items: messages.length + calls.length, bytes };
}

const goneFile = () =>
  new Failure('not-found', {
    what: 'That file is not held here any more.',
    next: 'Choose it again.',
  });

const zone = () => Intl.DateTimeFormat().resolvedOptions().timeZone;

function told(id: string): FileTold {
  const one = held.get(id);
  if (!one) throw goneFile();
  const { file, mapping } = one;
  const read = readBack(file, mapping, one.numbers, zone());
  const { messages, calls, leftOut, unknown, twice, without } = read;
  const first = [
    ...messages.slice(0, FIRST_LINES).map(({ at, from, thread, text }) => ({
      ...{ at: at.toISOString(), from, with: thread.split(','), text: text.slice(0, 300) },
    })),
    ...calls.slice(0, FIRST_LINES).map(({ at, kind, number, seconds }) => ({
      ...{ at: at.toISOString(), from: kind === 'outgoing' ? 'me' : number, with: [number] },
      text: kind === 'missed' ? 'missed call' : `${kind} call, ${seconds} s`,
    })),
  ];
  const times = [...messages, ...calls].map(({ at }) => at);
  return {
    ...{ id, format: file.format, columns: file.columns.slice(0, 60), mapping, first, unknown },
    ...{ messages: messages.length, calls: calls.length, twice, without, broken: file.broken },
    conversations: new Set(messages.map(({ thread }) => thread)).size,
    since: times[0]?.toISOString() ?? null,
    until: times.at(-1)?.toISOString() ?? null,
    leftOut: { count: leftOut.length, first: leftOut.slice(0, LEFT_OUT_TOLD) },
  };
}

/** Whose each number is, as the contacts of a device say. */
async function numbersOn(link: DeviceLink, deviceId: LinkDeviceId): Promise<Map<string, string>> {
  const numbers = new Map<string, string>();
  for await (const entry of link.entries(deviceId, 'contacts')) {
    if (kindOf(entry.format) !== 'contacts' || entry.bytes > RECORDS_AT_MOST) continue;
    const contents = await gathered(link.read(deviceId, entry));
    const records = recordsOf(entry.format, contents, entry.path);
    if (records?.kind !== 'contacts') continue;
    for (const { name, numbers: all } of records.contacts) {
      const [number] = all;
      if (name !== '' && number !== undefined) numbers.set(nameKey(name), number);
    }
  }
  return numbers;
}
