import { createHash, randomUUID } from 'node:crypto';
import type { FileTold } from '@bright-cellar/contract';
import {
  countOf,
  Failure,
  formatBytes,
  type LinkDeviceId,
  type Mapping,
} from '@bright-cellar/core';
import {
  guessedMapping,
  nameKey,
  picturePlace,
  readBack,
  readOpenFile,
  type OpenFile,
  type ReadBack,
} from '@bright-cellar/core/extract';
import { kindOf } from '@bright-cellar/core/formats';
import type { DeviceLink } from '@bright-cellar/device-link';
import { inOne } from '../../kernel/in-one.js';
import { RECORDS_AT_MOST, recordsOf } from '../cross/look-at-device.js';

/** An open file that somebody gave to bring back what is in it. */
interface Held {
  technicianId: string;
  deviceId: LinkDeviceId;
  file: OpenFile;
  mapping: Mapping;
  /** Whose number it is, as the device's contacts say, and whoever mapped it. */
  numbers: Map<string, string>;
  /** Where the file says that pictures lie. */
  wanted: ReadonlySet<string>;
  /** Those that were given, by that. */
  pictures: Map<string, HeldPicture>;
  usedAt: number;
}

/** A picture, or another file, that lies beside an open file. */
export interface HeldPicture {
  /** Where it goes on a device: a path in the folder of some conversation. The same bytes have the same, others another. */
  path: string;
  /** A media type, as who gave it says. */
  format: string;
  contents: Buffer;
}

const HELD_MAX = 6;
/** Of the pictures beside all files, bytes. */
const PICTURES_MAX = 400e6;
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
  for (const id of [...held.keys()].slice(0, -1)) {
    if (picturesBytes() <= PICTURES_MAX) return;
    held.delete(id);
  }
}

const picturesBytes = (): number =>
  [...held.values()]
    .flatMap(({ pictures }) => [...pictures.values()])
    .reduce((sum, { contents }) => sum + contents.length, 0);
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
  const wanted = new Set(file.lines.flatMap((line) => picturePlace(line) ?? []));
  held.set(id, {
    ...{ technicianId, deviceId, file, mapping, numbers, wanted },
    ...{ pictures: new Map(), usedAt: performance.now() },
  });
  forgetOld();
  return told(id);
}

/**
 * Takes a picture that lies beside it. One that came without its folder belongs where only one of its name is wanted.
 * @throws Failure `not-found`; `input-not-valid` where there are more than can be held
 */
export function holdPicture(asked: {
  id: string;
  technicianId: string;
  /** The last folder and the name, percent-encoded. */
  place: string;
  format: string;
  contents: string;
}): { isWanted: boolean } {
  const one = ownFile(asked.id, asked.technicianId);
  const place = picturePlace({ attachment: asked.place });
  const name = nameOf(picturePlace({ attachment: `by-name/${asked.place}` }) ?? '');
  const ofName = [...one.wanted].filter((other) => nameOf(other) === name);
  const wanted =
    place !== null && one.wanted.has(place) ? place : ofName.length === 1 ? ofName[0] : undefined;
  if (wanted === undefined) return { isWanted: false };
  const contents = Buffer.from(asked.contents, 'base64');
  if (picturesBytes() + contents.length > PICTURES_MAX) {
    throw new Failure('input-not-valid', {
      what: `The pictures are more than ${formatBytes(PICTURES_MAX)}: ${countOf(one.pictures.size, 'picture')} of them are here.`,
      next: 'Bring those back first, then the file once more with the others.',
    });
  }
  const mark = createHash('sha256').update(contents).digest('hex').slice(0, 8);
  const path = `messages/of-a-file/${mark}-${nameOf(wanted)}`;
  one.pictures.set(wanted, { path, format: asked.format, contents });
  return { isWanted: true };
}

const nameOf = (place: string): string => place.slice(place.lastIndexOf('/') + 1);

function ownFile(id: string, technicianId: string): Held {
  const one = held.get(id);
  if (one?.technicianId !== technicianId) throw goneFile();
  one.usedAt = performance.now();
  return one;
}

const readOf = ({ file, mapping, numbers, pictures }: Held): ReadBack =>
  readBack(file, mapping, numbers, zone(), (place) => pictures.get(place)?.path ?? null);

/** Says how it is to be read, and whose numbers the names in it are. @throws Failure `not-found` */
export function mapFile(asked: {
  id: string;
  technicianId: string;
  mapping: Mapping;
  numbers: Readonly<Record<string, string>>;
}): FileTold {
  const one = ownFile(asked.id, asked.technicianId);
  one.mapping = asked.mapping;
  for (const [name, number] of Object.entries(asked.numbers)) {
    if (number.trim() === '') one.numbers.delete(nameKey(name));
    else one.numbers.set(nameKey(name), number.trim());
  }
  return told(asked.id);
}

/** What comes back of it, for work that was started with it, and the pictures beside it. @throws Failure `not-found` */
export function readHeld(
  id: string,
  technicianId: string,
): ReadBack & { pictures: readonly HeldPicture[] } {
  const one = ownFile(id, technicianId);
  return { ...readOf(one), pictures: [...one.pictures.values()] };
}

/** Of what comes back of it. @throws Failure `not-found` */
export function amountHeld(id: string, technicianId: string): { items: number; bytes: number } {
  const { messages, calls, pictures } = readHeld(id, technicianId);
  const words = messages.reduce((sum, { text }) => sum + Buffer.byteLength(text), 0);
  const bytes = pictures.reduce((sum, { contents }) => sum + contents.length, words);
  return { items: messages.length + calls.length + pictures.length, bytes };
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
  const read = readOf(one);
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
    pictures: one.pictures.size,
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
    const contents = await inOne(link.read(deviceId, entry));
    const records = recordsOf(entry.format, contents, entry.path);
    if (records?.kind !== 'contacts') continue;
    for (const { name, numbers: all } of records.contacts) {
      const [number] = all;
      if (name !== '' && number !== undefined) numbers.set(nameKey(name), number);
    }
  }
  return numbers;
}
