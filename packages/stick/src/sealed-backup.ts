import { Failure } from '@bright-cellar/core';
import { Decrypter } from 'age-encryption';
import { z } from 'zod';
import { whole, type Folder } from './folder.js';
import { chunksOf, itemsOf, linesOf, type Header, type StickItem } from './list.js';
import { Places, type Place } from './places.js';
import { archiveKey, SealedFile, type ArchiveKey } from './sealed.js';

const SMALL_FILE_MAX = 64 * 1024;
const KEY_FILES_MAX = 2;
const WORK_FACTOR_MAX = 18;
/** Packs whose keys are held. */
const PACKS_MOST = 64;
const READ_AHEAD = 4;

const archiveFile = z.object({
  format: z.literal('bright-cellar-archive'),
  version: z.literal(1),
  archive: z.uuid(),
  cipher: z.literal('AES-256-GCM'),
  compression: z.literal('zstd'),
});

const rosterLine = z.discriminatedUnion('type', [
  z.object({ type: z.literal('roster'), archive: z.string() }),
  z.object({ type: z.literal('file'), name: z.string(), bytes: z.int() }),
  z.object({ type: z.literal('backup'), takenAt: z.iso.datetime(), list: z.string() }),
  z.object({ type: z.literal('end'), files: z.int() }),
]);

/** The newest backup of a sealed folder, opened with its password. Nothing of it is held but where things are. */
export class SealedBackup {
  /** When it was taken: ISO 8601, UTC. */
  readonly takenAt: string;
  /** What it is of; null for a plain folder. */
  readonly device: Header['device'];
  /** Files that should be in the folder and are not, or have another length. */
  readonly missing: readonly string[];
  readonly #folder: Folder;
  readonly #key: ArchiveKey;
  readonly #list: string;
  readonly #places: Places;
  readonly #packs = new Map<string, Promise<SealedFile>>();

  private constructor(
    folder: Folder,
    key: ArchiveKey,
    found: { header: Header; list: string; places: Places; missing: string[] },
  ) {
    this.#folder = folder;
    this.#key = key;
    this.#list = found.list;
    this.#places = found.places;
    this.takenAt = found.header.takenAt;
    this.device = found.header.device;
    this.missing = found.missing;
  }

  /** @throws Failure `wrong-password`, `archive-damaged`, `archive-format-unknown`, `rack-not-here` */
  static async open(folder: Folder, password: string): Promise<SealedBackup> {
    const about = await whole(folder.get('data/archive.json'), SMALL_FILE_MAX);
    const parsed = archiveFile.safeParse(jsonOf(about));
    if (!parsed.success) throw new Failure('archive-format-unknown');
    const { archive } = parsed.data;
    const key = await keyOf(folder, password);
    const { list, missing } = await rosterOf(folder, key, archive);
    const places = new Places();
    for (const [name, file] of folder) {
      if (!/^data\/indexes\/[0-9a-f]{32}\.index$/.test(name)) continue;
      for await (const frame of (await SealedFile.open(file, 'index', key)).frames())
        places.add(frame);
    }
    for await (const line of linesOf(
      (await SealedFile.open(folder.get(list), 'backup', key)).frames(),
    )) {
      if (line.type !== 'backup' || line.archive !== archive) break;
      return new SealedBackup(folder, key, { header: line, list, places, missing });
    }
    throw new Failure('archive-damaged');
  }

  async *items(): AsyncGenerator<StickItem> {
    yield* itemsOf(
      (await SealedFile.open(this.#folder.get(this.#list), 'backup', this.#key)).frames(),
    );
  }

  /** An item's bytes, or some of them; a few chunks are read ahead. @param range `to` is not read any more */
  async *read(
    item: Pick<StickItem, 'bytes' | 'contents'>,
    range = { from: 0, to: item.bytes },
  ): AsyncGenerator<Uint8Array> {
    const waiting: Promise<Uint8Array>[] = [];
    let at = 0;
    for (const id of chunksOf(item)) {
      const place = this.#places.of(id);
      const [from, to] = [Math.max(range.from - at, 0), Math.min(range.to - at, place.plain)];
      at += place.plain;
      if (from >= to) continue;
      const piece = this.#chunk(place).then((chunk) => chunk.subarray(from, to));
      // Waited for in turn: a failure is not unhandled until then.
      piece.catch(() => undefined);
      waiting.push(piece);
      if (waiting.length >= READ_AHEAD) yield await first(waiting);
    }
    if (at !== item.bytes) throw new Failure('archive-damaged');
    while (waiting.length > 0) yield await first(waiting);
  }

  async #chunk({ pack, offset, stored, plain }: Place): Promise<Uint8Array> {
    const chunk = await (await this.#pack(pack)).frame(offset, stored);
    if (chunk.length !== plain) throw new Failure('archive-damaged');
    return chunk;
  }

  #pack(name: string): Promise<SealedFile> {
    const known = this.#packs.get(name);
    if (known) return known;
    const [oldest] = this.#packs.keys();
    if (this.#packs.size >= PACKS_MOST && oldest !== undefined) this.#packs.delete(oldest);
    const opening = SealedFile.open(this.#folder.get(`data/packs/${name}.pack`), 'pack', this.#key);
    this.#packs.set(name, opening);
    // A stick that was plugged in again is asked again.
    opening.catch(() => this.#packs.delete(name));
    return opening;
  }
}

const first = (waiting: Promise<Uint8Array>[]): Promise<Uint8Array> =>
  waiting.shift() ?? Promise.resolve(new Uint8Array());

function jsonOf(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    return null;
  }
}

async function keyOf(folder: Folder, password: string): Promise<ArchiveKey> {
  const names = [...folder.keys()].filter((name) =>
    /^data\/keys\/password-[0-9a-f]{8}\.age$/.test(name),
  );
  if (names.length === 0) throw new Failure('archive-damaged');
  for (const name of names.slice(0, KEY_FILES_MAX)) {
    const file = await whole(folder.get(name), SMALL_FILE_MAX);
    const [, logN] =
      /^-> scrypt \S+ ([1-9]\d?)$/m.exec(new TextDecoder('latin1').decode(file)) ?? [];
    if (Number(logN ?? WORK_FACTOR_MAX + 1) > WORK_FACTOR_MAX)
      throw new Failure('archive-format-unknown');
    const decrypter = new Decrypter();
    decrypter.addPassphrase(password.normalize('NFC'));
    const bytes = await decrypter.decrypt(file).catch(() => null);
    if (bytes?.length !== 32) continue;
    const key = await archiveKey(new Uint8Array(bytes));
    bytes.fill(0);
    return key;
  }
  throw new Failure('wrong-password');
}

/** The list of the newest backup, and what the folder lacks. */
async function rosterOf(
  folder: Folder,
  key: ArchiveKey,
  archive: string,
): Promise<{ list: string; missing: string[] }> {
  const names = [...folder.keys()]
    .filter((name) => /^data\/rosters\/\d{8}-[0-9a-f]{8}\.roster$/.test(name))
    .sort();
  const file = await SealedFile.open(folder.get(names.at(-1) ?? ''), 'roster', key);
  const text = new TextDecoder();
  const missing: string[] = [];
  let newest: { takenAt: string; list: string } | null = null;
  let isEnded = false;
  for await (const frame of file.frames()) {
    for (const json of text.decode(frame).split('\n').slice(0, -1)) {
      const line = rosterLine.safeParse(jsonOf(new TextEncoder().encode(json))).data;
      if (!line) throw new Failure('archive-damaged');
      if (line.type === 'roster' && line.archive !== archive) throw new Failure('archive-damaged');
      if (line.type === 'file' && folder.get(line.name)?.size !== line.bytes)
        missing.push(line.name);
      if (line.type === 'backup' && line.takenAt > (newest?.takenAt ?? '')) newest = line;
      if (line.type === 'end') isEnded = true;
    }
  }
  if (!newest || !isEnded) throw new Failure('archive-damaged');
  return { list: newest.list, missing };
}
