import { Failure, readableName, type DataClass } from '@bright-cellar/core';
import { kindOf, oldText, parseRecords, type Records } from '@bright-cellar/core/formats';
import {
  Conversations,
  folded,
  Meant,
  monthsOf,
  People,
  Searching,
  type Conversation,
} from '@bright-cellar/core/look';
import type {
  AnyShelfPart,
  LookAmounts,
  LookConversation,
  LookFile,
  LookHit,
  LookMessage,
  LookMessages,
  ShelfId,
} from '@bright-cellar/contract';
import { Basket } from './basket.js';
import { Shelves, type Contents, type RecordsOf, type Thing } from './shelves/index.js';
import { isDrawn, isText, playsAs } from './shown.js';
import { gathered, type ByteRange, type Source, type SourceItem } from './source.js';
import type { Packing } from './take-out/package.js';
import { TakeOuts } from './take-out/take-outs.js';
import { takenFrom, TAKEN_BYTES, type Taken } from './taken.js';

/** What says that it is a longer file of records than this is none that a device keeps. */
const RECORDS_MAX_BYTES = 64e6;
/** A larger picture is not drawn: it would take the memory that all others need. */
const PICTURE_MAX_BYTES = 80e6;
const ROWS_AT_ONCE = 200;
const CONVERSATIONS_MOST = 500;
const HITS_MOST = 100;
const NEVER_SHOWN: DataClass = 'saved-passwords';
/** So much of a text is shown. */
const TEXT_BYTES = 256 * 1024;

/** Where somebody looks: their clock, their time zone, and how a package is made there. */
export interface Surroundings {
  now(): Date;
  /** An IANA time zone. */
  zone: string;
  packing: Packing;
}

/** What is in one backup, read while somebody looks into it. All of it is in memory, and nowhere else. */
export class Looked<Item extends SourceItem = SourceItem> {
  readonly #source: Source<Item>;
  readonly #here: Surroundings;
  readonly #items: Item[] = [];
  readonly #byPath = new Map<string, number>();
  readonly #byClass = new Map<DataClass, { items: number[]; bytes: number }>();
  readonly #collected = new Conversations();
  readonly #people = new People();
  readonly #ended = new AbortController();
  readonly #records = new Map<Records['kind'], { records: Records; thing: Thing }[]>();
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
  constructor(source: Source<Item>, here: Surroundings) {
    this.#source = source;
    this.#here = here;
    const contents = this.#contents();
    this.#shelves = new Shelves(contents);
    const shelves = this.#shelves;
    this.basket = new Basket({
      ...{ shelves, now: () => here.now() },
      conversation: (id) => this.#conversations[id],
      filesOf: (dataClass, text) =>
        dataClass === NEVER_SHOWN ? [] : this.#filesOf(dataClass, text),
    });
    const files = {
      ...{ shelves, contents },
      itemAt: (path: string) => this.#byPath.get(path),
      fileOf: (item: number) => {
        const held = this.#items[item];
        if (!held || held.class === NEVER_SHOWN) return null;
        const { path, modified, format } = held;
        return { path, modified, format: format ?? null };
      },
    };
    this.takeOuts = new TakeOuts(files, (item) => this.#readWhole(item), here.packing);
    this.reading = this.#read();
  }

  /** Everything that was found so far, in the order of the backup. */
  get items(): readonly Item[] {
    return this.#items;
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
    try {
      for await (const item of this.#source.items()) {
        if (signal.aborted) return;
        this.#hold(item);
      }
    } catch {
      // What came before that is read all the same.
      this.#isCut = !signal.aborted;
    }
    // Whose a number is comes first: conversations are told by names.
    const isContact = ({ format }: Item) => kindOf(format ?? null) === 'contacts';
    const held = this.#items.map((one, item) => ({ one, item }));
    const records = held.filter(({ one }) => isOfRecords(one));
    const [first, rest] = [true, false].map((is) =>
      records.filter(({ one }) => isContact(one) === is),
    );
    for (const { one, item } of [...(first ?? []), ...(rest ?? [])]) {
      if (signal.aborted) return;
      await this.#parse(one, item);
    }
    this.#conversations = this.#collected.told(this.#people);
    this.#searching = new Searching(this.#conversations);
    this.#isAll = true;
    await this.#date();
  }

  /** When and where each photograph was taken stands in itself: read when all else can be read already. */
  async #date(): Promise<void> {
    const { signal } = this.#ended;
    this.#isDating = true;
    for (const item of this.#byClass.get('photographs')?.items ?? []) {
      if (signal.aborted) return;
      const held = this.#items[item];
      if (!held || !isDrawn(held.format ?? null)) continue;
      const beginning = this.#bytes(held, { from: 0, to: Math.min(held.bytes, TAKEN_BYTES) });
      const taken = await beginning.then(takenFrom).catch(() => null);
      if (taken) this.#taken.set(item, taken);
    }
    this.#shelves.fillAnew('photographs');
    this.#isDating = false;
  }

  /** Everything that was read, for the shelves. */
  #contents(): Contents {
    return {
      people: this.#people,
      records: <Kind extends Records['kind']>(kind: Kind) =>
        (this.#records.get(kind) ?? []) as { records: RecordsOf<Kind>; thing: Thing }[],
      things: (dataClass) =>
        (this.#byClass.get(dataClass)?.items ?? []).flatMap((item) => this.#thing(item) ?? []),
      taken: this.#taken,
      takenAt: Date.parse(this.#source.takenAt),
      zone: this.#here.zone,
    };
  }

  #thing(item: number): Thing | null {
    const held = this.#items[item];
    if (!held) return null;
    const { path, bytes, modified, format } = held;
    const contents = this.#source.contentsOf(held);
    return { item, path, bytes, modified, format: format ?? null, contents };
  }

  #hold(item: Item): void {
    const { class: dataClass, path, bytes, kind } = item;
    if (kind !== 'file') return;
    const at = this.#items.length;
    this.#items.push(item);
    this.#byPath.set(path, at);
    const known = this.#byClass.get(dataClass) ?? { items: [], bytes: 0 };
    this.#byClass.set(dataClass, known);
    known.items.push(at);
    known.bytes += bytes;
  }

  /** What does not hold what it says is counted, and stays a file like any other. */
  async #parse(item: Item, number: number): Promise<void> {
    let records: Records;
    try {
      if (item.bytes > RECORDS_MAX_BYTES) throw new Error('too large for records');
      const contents = await this.#bytes(item);
      records = parseRecords(item.format ?? '', contents, item.path);
    } catch {
      this.#unreadable += 1;
      return;
    }
    const source = sourceOf(item);
    if (records.kind === 'contacts') this.#people.add(records.contacts);
    if (records.kind === 'messages') {
      this.#collected.add(source, records.messages);
    } else if (records.kind === 'threads') {
      for (const thread of records.threads) this.#collected.addThread(source, thread);
    } else {
      const thing = this.#thing(number);
      const all = this.#records.get(records.kind) ?? [];
      this.#records.set(records.kind, all);
      if (thing) all.push({ records, thing });
    }
  }

  #bytes(item: Item, range?: ByteRange): Promise<Uint8Array> {
    return gathered(this.#source.read(item, range));
  }

  amounts(): LookAmounts {
    return {
      backupTakenAt: this.#source.takenAt,
      items: this.#items.length,
      isAll: this.#isAll,
      isCut: this.#isCut,
      classes: [...this.#byClass].map(([dataClass, { items, bytes }]) => ({
        ...{ class: dataClass, items: items.length, bytes },
      })),
      conversations: this.#conversations.length,
      messages: this.#conversations.reduce((sum, { said }) => sum + said.length, 0),
      shelves: this.#isAll ? this.#shelves.sizes() : [],
      isDating: this.#isDating,
      unreadable: this.#unreadable,
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
    return { conversation: headOf(conversation), rows, months: monthsOf(conversation.said) };
  }

  #cameWith(path: string): NonNullable<LookMessage['with']> {
    const item = this.#byPath.get(path) ?? null;
    const isPicture = item !== null && this.#isPicture(item);
    const plays = item === null ? null : playsAs(this.#items[item]?.format ?? null);
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
    const found = this.#filesOf(dataClass, text);
    // Saved passwords are counted, and nothing of them is shown.
    const shown = dataClass === NEVER_SHOWN ? [] : found;
    const rows = shown.slice(from, from + ROWS_AT_ONCE).flatMap((item) => {
      const held = this.#items[item];
      if (!held) return [];
      const { path, bytes, modified } = held;
      return { item, path: readableName(path), bytes, modified, isPicture: this.#isPicture(item) };
    });
    return { rows, total: found.length };
  }

  /** The class that an item is of; nothing where there is none. */
  classOf(item: number): DataClass[] {
    return this.#items[item] ? [this.#items[item].class] : [];
  }

  #filesOf(dataClass: DataClass, text: string): number[] {
    const wanted = folded(text.trim());
    const all = this.#byClass.get(dataClass)?.items ?? [];
    return wanted === ''
      ? all
      : all.filter((item) => folded(this.#items[item]?.path ?? '').includes(wanted));
  }

  async *#readWhole(item: number): AsyncGenerator<Uint8Array> {
    const held = this.#items[item];
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
    const held = this.#items[item];
    if (!held || held.class === NEVER_SHOWN || !isText(held.format ?? null))
      throw new Failure('not-found');
    const to = Math.min(held.bytes, TEXT_BYTES);
    return { text: oldText(await this.#bytes(held, { from: 0, to })), isAll: to === held.bytes };
  }

  /**
   * What is played, or a part of it.
   * @param to not including; null for the end
   * @throws Failure `not-found`
   */
  played(item: number, from: number, to: number | null) {
    const held = this.#items[item];
    const type = playsAs(held?.format ?? null);
    if (!held || held.class === NEVER_SHOWN || type === null) throw new Failure('not-found');
    const range = { from: Math.min(from, held.bytes), to: Math.min(to ?? held.bytes, held.bytes) };
    return {
      head: { type, size: held.bytes, ...range },
      bytes: this.#source.read(held, range),
    };
  }

  /** The bytes of what can be drawn. @throws Failure `not-found`, `input-not-valid` where it is too large */
  async picture(item: number): Promise<Uint8Array> {
    const held = this.#items[item];
    if (!held || !this.#isPicture(item)) throw new Failure('not-found');
    if (held.bytes > PICTURE_MAX_BYTES)
      throw new Failure('input-not-valid', { what: 'That is too large to be shown.' });
    return this.#bytes(held);
  }

  /** Any file as it is, with what it is called. @throws Failure `not-found` */
  file(item: number): { name: string; bytes: number; contents: AsyncIterable<Uint8Array> } {
    const held = this.#items[item];
    if (!held || held.class === NEVER_SHOWN) throw new Failure('not-found');
    return { name: nameOf(held.path), bytes: held.bytes, contents: this.#source.read(held) };
  }

  #isPicture(item: number): boolean {
    const held = this.#items[item];
    return held !== undefined && held.class !== NEVER_SHOWN && isDrawn(held.format ?? null);
  }
}

/** Notes are written in what documents are written in, too. */
const isOfRecords = ({ class: dataClass, format }: SourceItem): boolean => {
  const kind = kindOf(format ?? null);
  return kind !== null && (kind !== 'notes' || dataClass === 'notes');
};

const nameOf = (path: string): string => readableName(path.slice(path.lastIndexOf('/') + 1));

/** Where something was said: an application's folder names it. */
function sourceOf({ class: dataClass, path }: SourceItem): string {
  const folder = dataClass === 'applications' ? path.split('/')[1] : undefined;
  return folder ? folder.slice(0, 1).toUpperCase() + folder.slice(1) : 'Messages';
}

const headOf = ({ id, people, isGroup, sources, said }: Conversation): LookConversation => ({
  ...{ id, people, isGroup, sources, messages: said.length },
  from: new Date(said[0]?.at ?? 0).toISOString(),
  to: new Date(said.at(-1)?.at ?? 0).toISOString(),
  last: said.at(-1)?.text.slice(0, 120) ?? '',
});
