import { Failure, readableName, type DataClass } from '@bright-cellar/core';
import { kindOf, oldText, parseRecords, type Records } from '@bright-cellar/core/formats';
import {
  Conversations,
  Findables,
  folded,
  Meant,
  monthsOf,
  People,
  Searching,
  type Conversation,
} from '@bright-cellar/core/look';
import type { ToldConversation } from '@bright-cellar/core/take-out';
import { shelfIds } from '@bright-cellar/contract';
import type {
  AnyShelfPart,
  LookAmounts,
  LookConversation,
  LookFile,
  LookHit,
  LookMessage,
  LookMessages,
  LookSamples,
  Pictured,
  ShelfId,
} from '@bright-cellar/contract';
import type { Picked } from '@bright-cellar/core/crossing';
import { Basket } from './basket.js';
import { pickedOf } from './picked.js';
import { Shelves, type Contents, type RecordsOf } from './shelves/index.js';
import { goesAs, isDrawn, isText, playsAs } from './shown.js';
import { gathered, type ByteRange, type Held, type Source, type SourceItem } from './source.js';
import type { Source as Written } from './take-out/outputs.js';
import type { Packing } from './take-out/package.js';
import { TakeOuts } from './take-out/take-outs.js';
import { takenFrom, TAKEN_BYTES, type Taken } from './taken.js';

/** What says that it is a longer file of records than this is none that a device keeps. */
const RECORDS_MAX_BYTES = 64e6;
/** A larger picture is not drawn: it would take the memory that all others need. */
const PICTURE_MAX_BYTES = 80e6;
/** So many items, or so much of records, are read at a stretch. */
const TIDY_EVERY = 50_000;
const TIDY_EVERY_BYTES = 8e6;
const ROWS_AT_ONCE = 200;
const CONVERSATIONS_MOST = 500;
const HITS_MOST = 100;
const NEVER_SHOWN: DataClass = 'saved-passwords';
/** So much of a text is shown. */
const TEXT_BYTES = 256 * 1024;

type Printed = NonNullable<Written['pages']>;

/** Where somebody looks: their clock, their time zone, and how a package is made there. */
export interface Surroundings {
  now(): Date;
  /** An IANA time zone. */
  zone: string;
  packing: Packing;
  /** Makes pages to print of a conversation; absent where nobody does. @param drawn a picture that came along, by its path in the package */
  pages?: (
    told: ToldConversation,
    zone: string,
    drawn: (path: string) => Promise<Uint8Array | null>,
  ) => AsyncIterable<Uint8Array>;
  /** Comes after work that leaves much behind: memory is given back where that can be asked for, and others have a turn. */
  tidy(): Promise<void>;
}

/** Files of one class. */
interface OfClass {
  dataClass: DataClass;
  files: number[];
  bytes: number;
  /** Made when somebody looks for one. */
  findables: Findables | null;
}

/** What is in one backup, read while somebody looks into it. All of it is in memory, and nowhere else. */
export class Looked {
  readonly #source: Source;
  readonly #here: Surroundings;
  readonly #files: Held[] = [];
  readonly #byClass = new Map<DataClass, OfClass>();
  /** What the device said of many files, once. */
  readonly #formats = new Map<string, string>();
  /** Files that came along with what was said, by their paths. */
  #attached: ReadonlyMap<string, number> = new Map();
  readonly #collected = new Conversations();
  readonly #people = new People();
  readonly #ended = new AbortController();
  readonly #records = new Map<Records['kind'], { records: Records; file: number }[]>();
  readonly #taken = new Map<number, Taken>();
  readonly #shelves: Shelves;
  readonly basket: Basket;
  readonly takeOuts: TakeOuts;
  #isDating = false;
  #conversations: Conversation[] = [];
  #searching = new Searching([]);
  #unreadable = 0;
  #isAll = false;
  /** Its list is damaged: what came before that is there. */
  #isCut = false;
  /** Ends when all that is there was read, or it is over. */
  readonly reading: Promise<void>;

  /** Begins to read it. */
  constructor(source: Source, here: Surroundings) {
    this.#source = source;
    this.#here = here;
    const contents = this.#contents();
    this.#shelves = new Shelves(contents);
    const shelves = this.#shelves;
    this.basket = new Basket({
      ...{ shelves, now: () => here.now() },
      conversation: (id) => this.#conversations[id],
      filesOf: (dataClass, text) => (dataClass === NEVER_SHOWN ? [] : this.#found(dataClass, text)),
    });
    const files = {
      ...{ shelves, contents },
      itemAt: (path: string) => this.#attached.get(path),
      fileOf: (item: number) => {
        const held = this.#files[item];
        return held && held.class !== NEVER_SHOWN ? held : null;
      },
    };
    const { pages } = here;
    const onPages: Printed | null = pages
      ? (told, zone, items) =>
          pages(told, zone, async (path) => {
            const item = items.get(path) ?? -1;
            return this.#isPicture(item) ? this.picture({ of: 'files', number: item }) : null;
          })
      : null;
    this.takeOuts = new TakeOuts(
      { ...files, pages: onPages },
      (item) => this.#readWhole(item),
      here.packing,
    );
    this.reading = this.#read();
  }

  /** What is in hand, as it goes onto a device. */
  picked(): Picked {
    return pickedOf(this.basket.hand(), this.#shelves, this.#contents());
  }

  /** Records of a kind as far as they were read, file by file. */
  recordsOf(kind: Records['kind']): Records[] {
    return (this.#records.get(kind) ?? []).map(({ records }) => records);
  }

  get ended(): AbortSignal {
    return this.#ended.signal;
  }

  /** Reads no further; what it held can be forgotten. */
  async close(): Promise<void> {
    this.#ended.abort();
    await this.reading.catch(() => undefined);
  }

  async #read(): Promise<void> {
    const { signal } = this.#ended;
    let listed = 0;
    try {
      for await (const item of this.#source.items()) {
        if (signal.aborted) return;
        this.#hold(item);
        listed += 1;
        if (listed % TIDY_EVERY === 0) await this.#here.tidy();
      }
    } catch {
      // What came before that is read all the same.
      this.#isCut = !signal.aborted;
    }
    // Whose a number is comes first: conversations are told by names.
    const ofRecords = [...this.#files.keys()].filter((file) => isOfRecords(this.#file(file)));
    let read = 0;
    for (const isFirst of [true, false]) {
      for (const file of ofRecords) {
        if ((kindOf(this.#file(file).format) === 'contacts') !== isFirst) continue;
        if (signal.aborted) return;
        await this.#parse(file);
        read += this.#file(file).bytes;
        if (read < TIDY_EVERY_BYTES) continue;
        read = 0;
        await this.#here.tidy();
      }
    }
    this.#conversations = this.#collected.told(this.#people);
    this.#attached = this.#whatCameAlong();
    this.#searching = new Searching(this.#conversations);
    await this.#here.tidy();
    if (signal.aborted) return;
    for (const id of shelfIds) this.#shelves.prepare(id);
    await this.#here.tidy();
    this.#isAll = true;
    await this.#date();
  }

  /** When and where each photograph was taken stands in itself: read when all else can be read already. */
  async #date(): Promise<void> {
    const { signal } = this.#ended;
    this.#isDating = true;
    for (const item of this.#filesOf('photographs')) {
      if (signal.aborted) return;
      const held = this.#file(item);
      if (!isDrawn(held.format)) continue;
      const beginning = this.#bytes(held, { from: 0, to: Math.min(held.bytes, TAKEN_BYTES) });
      const taken = await beginning.then(takenFrom).catch(() => null);
      if (taken) this.#taken.set(item, taken);
    }
    this.#shelves.fillAnew('photographs');
    this.#shelves.prepare('photographs');
    await this.#here.tidy();
    this.#isDating = false;
  }

  /** Everything that was read, for the shelves. */
  #contents(): Contents {
    return {
      people: this.#people,
      records: <Kind extends Records['kind']>(kind: Kind) =>
        (this.#records.get(kind) ?? []) as { records: RecordsOf<Kind>; file: number }[],
      files: (dataClass) => this.#filesOf(dataClass),
      file: (number) => this.#file(number),
      taken: this.#taken,
      takenAt: Date.parse(this.#source.takenAt),
      zone: this.#here.zone,
    };
  }

  #file(number: number): Held {
    const held = this.#files[number];
    if (!held) throw new RangeError('there is no such file');
    return held;
  }

  #filesOf(dataClass: DataClass): readonly number[] {
    return this.#byClass.get(dataClass)?.files ?? [];
  }

  #hold({ class: dataClass, path, bytes, kind, modified, format, contents }: SourceItem) {
    if (kind !== 'file') return;
    const known = this.#byClass.get(dataClass) ?? {
      ...{ dataClass, files: [], bytes: 0, findables: null },
    };
    this.#byClass.set(dataClass, known);
    known.files.push(this.#files.length);
    known.bytes += bytes;
    if (format !== undefined && !this.#formats.has(format)) this.#formats.set(format, format);
    // Written out: an object that is spread gets a shape of its own here, which takes more than all that is in it.
    this.#files.push({
      class: known.dataClass,
      path,
      bytes,
      modified: Date.parse(modified),
      format: this.#formats.get(format ?? '') ?? null,
      contents,
    });
  }

  /** Of several files at one path the last counts. */
  #whatCameAlong(): ReadonlyMap<string, number> {
    const named = new Set(
      this.#conversations.flatMap(({ said }) => said.flatMap((one) => one.attachment ?? [])),
    );
    const there = new Map<string, number>();
    if (named.size === 0) return there;
    this.#files.forEach(({ path }, file) => named.has(path) && there.set(path, file));
    return there;
  }

  /** What does not hold what it says is counted, and stays a file like any other. */
  async #parse(file: number): Promise<void> {
    const held = this.#file(file);
    let records: Records;
    try {
      if (held.bytes > RECORDS_MAX_BYTES) throw new Error('too large for records');
      records = parseRecords(held.format ?? '', await this.#bytes(held), held.path);
    } catch {
      this.#unreadable += 1;
      return;
    }
    const source = sourceOf(held);
    if (records.kind === 'contacts') this.#people.add(records.contacts);
    if (records.kind === 'messages') {
      this.#collected.add(source, records.messages);
    } else if (records.kind === 'threads') {
      for (const thread of records.threads) this.#collected.addThread(source, thread);
    } else {
      const all = this.#records.get(records.kind) ?? [];
      this.#records.set(records.kind, all);
      all.push({ records, file });
    }
  }

  #bytes(held: Held, range?: ByteRange): Promise<Uint8Array> {
    return gathered(this.#source.read(held, range));
  }

  amounts(): LookAmounts {
    return {
      backupTakenAt: this.#source.takenAt,
      items: this.#files.length,
      isAll: this.#isAll,
      isCut: this.#isCut,
      classes: [...this.#byClass].map(([dataClass, { files, bytes }]) => ({
        ...{ class: dataClass, items: files.length, bytes },
      })),
      conversations: this.#conversations.length,
      messages: this.#conversations.reduce((sum, { said }) => sum + said.length, 0),
      shelves: this.#isAll ? this.#shelves.sizes() : [],
      isDating: this.#isDating,
      unreadable: this.#unreadable,
    };
  }

  /** A few things to be looked for on the device that the backup went onto. @param random from 0 up to, not including, 1 */
  samples(random: () => number): LookSamples {
    const { length } = this.#conversations;
    const ids = new Set(length > 0 ? [0, Math.floor(random() * length)] : []);
    return {
      photographs: this.#shelves
        .drawn('photographs', 3, random)
        .map(({ item, at, album, isPicture }) => ({ item, at, album, isPicture })),
      contacts: this.#shelves
        .drawn('contacts', 3, random)
        .map(({ name, numbers }) => ({ name, numbers })),
      said: [...ids].flatMap((id) => this.#conversations[id] ?? []).map(lastOf),
      notes: this.#shelves.drawn('notes', 1, random).map(({ title, text }) => ({ title, text })),
      screens: this.#shelves.drawn('screens', 1, random),
    };
  }

  conversations(text: string): { rows: LookConversation[]; total: number } {
    const wanted = folded(text.trim());
    const found = this.#conversations.filter(({ people }) =>
      people.some((name) => folded(name).includes(wanted)),
    );
    return { rows: found.slice(0, CONVERSATIONS_MOST).map(headOf), total: found.length };
  }

  /** @throws Failure `not-found` */
  messages(id: number, from: number, atMost: number): LookMessages {
    const conversation = this.#conversations[id];
    if (!conversation) throw new Failure('not-found');
    const rows = conversation.said
      .slice(from, from + atMost)
      .map(({ at, attachment, ...said }, n) => ({
        ...{ ...said, index: from + n, at: new Date(at).toISOString() },
        with: attachment === null ? null : this.#cameWith(attachment),
      }));
    return { conversation: headOf(conversation), rows, months: monthsOf(timesOf(conversation)) };
  }

  #cameWith(path: string): NonNullable<LookMessage['with']> {
    const item = this.#attached.get(path) ?? null;
    const isPicture = item !== null && this.#isPicture(item);
    const plays = item === null ? null : playsAs(this.#file(item).format);
    return { item, name: nameOf(path), isPicture, plays };
  }

  search(text: string, within: number | null): { rows: LookHit[]; total: number } {
    const { hits, total } = this.#searching.find(new Meant(text, this.#here.now()), {
      atMost: HITS_MOST,
      within: within ?? undefined,
    });
    const rows = hits.flatMap(({ conversation: id, index }) => {
      const conversation = this.#conversations[id];
      const said = conversation?.said[index];
      if (!conversation || !said) return [];
      const { at, from, text: words } = said;
      return {
        ...{ conversation: id, people: conversation.people, index },
        ...{ at: new Date(at).toISOString(), from, text: words },
      };
    });
    return { rows, total };
  }

  files(dataClass: DataClass, text: string, from: number): { rows: LookFile[]; total: number } {
    const found = this.#found(dataClass, text);
    // Saved passwords are counted, and nothing of them is shown.
    const shown = dataClass === NEVER_SHOWN ? [] : found;
    const rows = shown.slice(from, from + ROWS_AT_ONCE).map((item) => {
      const { path, bytes, modified } = this.#file(item);
      const at = new Date(modified).toISOString();
      const isPicture = this.#isPicture(item);
      return { item, path: readableName(path), bytes, modified: at, isPicture };
    });
    return { rows, total: found.length };
  }

  /** The class that an item is of; nothing where there is none. */
  classOf(item: number): DataClass[] {
    return this.#files[item] ? [this.#files[item].class] : [];
  }

  /** Files of a class that fit what is looked for; all of them where nothing is. */
  #found(dataClass: DataClass, text: string): readonly number[] {
    const all = this.#byClass.get(dataClass);
    const meant = new Meant(text, this.#here.now());
    if (!all || meant.isNothing) return all?.files ?? [];
    // While it is still read there are more of them each time.
    const held = all.files.map((file) => this.#file(file));
    const findables =
      all.findables ?? new Findables(held.map(({ path, modified: at }) => ({ text: path, at })));
    if (this.#isAll) all.findables = findables;
    return findables.find(meant).map((n) => all.files[n] ?? 0);
  }

  async *#readWhole(item: number): AsyncGenerator<Uint8Array> {
    const held = this.#files[item];
    if (held) yield* this.#source.read(held);
  }

  /** Rows of a shelf; nothing before all was read. */
  shelf(id: ShelfId, text: string, from: number): AnyShelfPart {
    const meant = new Meant(text, this.#here.now());
    if (!this.#isAll) return { shelf: id, rows: [], total: 0, months: [] };
    return this.#shelves.part(id, meant, from) as AnyShelfPart;
  }

  /** The first rows of every shelf that has any. */
  everywhere(text: string): AnyShelfPart[] {
    return this.#isAll ? this.#shelves.first(new Meant(text, this.#here.now())) : [];
  }

  /** What a document says, as letters. @throws Failure `not-found` */
  async text(item: number): Promise<{ text: string; isAll: boolean }> {
    const held = this.#files[item];
    if (!held || held.class === NEVER_SHOWN || !isText(held.format)) throw new Failure('not-found');
    const to = Math.min(held.bytes, TEXT_BYTES);
    return { text: oldText(await this.#bytes(held, { from: 0, to })), isAll: to === held.bytes };
  }

  /**
   * What is played or drawn page by page, or a part of it.
   * @param to not including; null for the end
   * @throws Failure `not-found`
   */
  played(item: number, from: number, to: number | null) {
    const held = this.#files[item];
    const type = goesAs(held?.format ?? null);
    if (!held || held.class === NEVER_SHOWN || type === null) throw new Failure('not-found');
    const range = { from: Math.min(from, held.bytes), to: Math.min(to ?? held.bytes, held.bytes) };
    return {
      head: { type, size: held.bytes, ...range },
      bytes: this.#source.read(held, range),
    };
  }

  /** The bytes of what can be drawn. @throws Failure `not-found`, `input-not-valid` where it is too large */
  async picture({ of, number: item }: Pictured): Promise<Uint8Array> {
    if (of === 'cards') return this.#onCard(item);
    const held = this.#files[item];
    if (!held || !this.#isPicture(item)) throw new Failure('not-found');
    if (held.bytes > PICTURE_MAX_BYTES)
      throw new Failure('input-not-valid', { what: 'That is too large to be shown.' });
    return this.#bytes(held);
  }

  #onCard(card: number): Uint8Array {
    const cards = this.#records
      .get('contacts')
      ?.flatMap(({ records }) => (records.kind === 'contacts' ? records.contacts : []));
    const picture = cards?.[card]?.picture;
    if (!picture) throw new Failure('not-found');
    return Uint8Array.from(atob(picture.base64), (letter) => letter.charCodeAt(0));
  }

  /** The classes that a picture is of; nothing where there is none. */
  classesOf({ of, number }: Pictured): DataClass[] {
    return of === 'cards' ? ['contacts'] : this.classOf(number);
  }

  /** Any file as it is, with what it is called. @throws Failure `not-found` */
  file(item: number): { name: string; bytes: number; contents: AsyncIterable<Uint8Array> } {
    const held = this.#files[item];
    if (!held || held.class === NEVER_SHOWN) throw new Failure('not-found');
    return { name: nameOf(held.path), bytes: held.bytes, contents: this.#source.read(held) };
  }

  #isPicture(item: number): boolean {
    const held = this.#files[item];
    return held !== undefined && held.class !== NEVER_SHOWN && isDrawn(held.format);
  }
}

function* timesOf({ said }: Conversation): Generator<number> {
  for (const { at } of said) yield at;
}

/** Notes are written in what documents are written in, too. */
const isOfRecords = ({ class: dataClass, format }: Held): boolean => {
  const kind = kindOf(format);
  return kind !== null && (kind !== 'notes' || dataClass === 'notes');
};

const nameOf = (path: string): string => readableName(path.slice(path.lastIndexOf('/') + 1));

/** Where something was said: an application's folder names it. */
function sourceOf({ class: dataClass, path }: Held): string {
  const folder = dataClass === 'applications' ? path.split('/')[1] : undefined;
  return folder ? folder.slice(0, 1).toUpperCase() + folder.slice(1) : 'Messages';
}

const headOf = ({ id, people, isGroup, sources, said }: Conversation): LookConversation => ({
  ...{ id, people, isGroup, sources, messages: said.length },
  from: new Date(said[0]?.at ?? 0).toISOString(),
  to: new Date(said.at(-1)?.at ?? 0).toISOString(),
  last: said.at(-1)?.text.slice(0, 120) ?? '',
});

const SAMPLE_LAST = 3;
const lastOf = ({ people, said }: Conversation): LookSamples['said'][number] => ({
  people,
  source: said.at(-1)?.source ?? '',
  last: said.slice(-SAMPLE_LAST).map(({ at, isOwn, from, text }) => ({
    ...{ isOwn, from, text, at: new Date(at).toISOString() },
  })),
});
