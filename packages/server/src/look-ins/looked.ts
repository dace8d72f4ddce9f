import { readableName, type OpenArchive, type ItemRecord } from '@bright-cellar/archive';
import { Failure, type DataClass } from '@bright-cellar/core';
import { kindOf, parseRecords, type Records } from '@bright-cellar/core/formats';
import {
  Conversations,
  digitsOf,
  folded,
  numberEnd,
  monthsOf,
  People,
  Searching,
  type Call,
  type Contact,
  type Conversation,
} from '@bright-cellar/core/look';
import type {
  LookAmounts,
  LookCall,
  LookContact,
  LookConversation,
  LookFile,
  LookHit,
  LookMessages,
} from '@bright-cellar/contract';

/** What says that it is a longer file of records than this is none that a device keeps. */
const RECORDS_MAX_BYTES = 64e6;
/** A larger picture is not drawn: it would take the memory that all others need. */
const PICTURE_MAX_BYTES = 80e6;
const PICTURE_MAX_PIXELS = 120e6;
const ROWS_AT_ONCE = 200;
const CONVERSATIONS_MOST = 500;
const HITS_MOST = 100;
const NEVER_SHOWN: DataClass = 'saved-passwords';
const pictures: ReadonlySet<string> = new Set([
  ...['image/jpeg', 'image/png', 'image/webp', 'image/gif', 'image/tiff', 'image/avif'],
]);

/** An item as it is held while somebody looks: what it is, and where its bytes are. */
type Held = Pick<ItemRecord, 'class' | 'path' | 'bytes' | 'modified' | 'format'> & {
  record: ItemRecord;
};

/** What is in one backup, read while somebody looks into it. All of it is in memory, and nowhere else. */
export class Looked {
  readonly #archive: OpenArchive;
  readonly #backupId: string;
  readonly #takenAt: string;
  readonly #items: Held[] = [];
  readonly #byPath = new Map<string, number>();
  readonly #byClass = new Map<DataClass, { items: number[]; bytes: number }>();
  readonly #collected = new Conversations();
  readonly #people = new People();
  readonly #ended = new AbortController();
  readonly #contacts: Contact[] = [];
  readonly #calls: Call[] = [];
  #conversations: Conversation[] = [];
  #searching = new Searching([]);
  #unreadable = 0;
  #isAll = false;
  /** Its list is damaged: what came before that is there. */
  #isCut = false;
  /** Ends when all that is there was read, or it is over. */
  readonly reading: Promise<void>;

  private constructor(archive: OpenArchive, backupId: string, takenAt: string) {
    this.#archive = archive;
    this.#backupId = backupId;
    this.#takenAt = takenAt;
    this.reading = this.#read();
  }

  /** Begins to read it. The archive is closed with it. @throws Failure `not-found`, `archive-damaged` */
  static async begin(archive: OpenArchive, backupId: string): Promise<Looked> {
    try {
      const { header } = await archive.backup(backupId);
      await archive.prepare();
      return new Looked(archive, backupId, header.takenAt);
    } catch (error) {
      await archive.close();
      throw error;
    }
  }

  /** Forgets all of it, the key first. */
  async close(): Promise<void> {
    this.#ended.abort();
    this.#archive.key.forget();
    await this.reading.catch(() => undefined);
    await this.#archive.close();
  }

  async #read(): Promise<void> {
    const { signal } = this.#ended;
    try {
      for await (const record of this.#archive.items(this.#backupId)) {
        if (signal.aborted) return;
        this.#hold(record);
      }
    } catch {
      // What came before that is read all the same.
      this.#isCut = !signal.aborted;
    }
    // Whose a number is comes first: conversations are told by names.
    const isContact = ({ format }: Held) => kindOf(format ?? null) === 'contacts';
    const held = this.#items.filter(({ format }) => kindOf(format ?? null) !== null);
    for (const item of [...held.filter(isContact), ...held.filter((one) => !isContact(one))]) {
      if (signal.aborted) return;
      await this.#parse(item);
    }
    this.#conversations = this.#collected.told(this.#people);
    this.#searching = new Searching(this.#conversations);
    this.#contacts.sort((a, b) => byName.compare(a.name, b.name));
    this.#calls.sort((a, b) => b.at.getTime() - a.at.getTime());
    this.#isAll = true;
  }

  #hold(record: ItemRecord): void {
    const { class: dataClass, path, bytes, modified, format } = record;
    if (record.kind !== 'file') return;
    const at = this.#items.length;
    this.#items.push({
      ...{ class: dataClass, path, bytes, modified, record },
      ...(format === undefined ? {} : { format }),
    });
    this.#byPath.set(path, at);
    const known = this.#byClass.get(dataClass) ?? { items: [], bytes: 0 };
    this.#byClass.set(dataClass, known);
    known.items.push(at);
    known.bytes += bytes;
  }

  /** What does not hold what it says is counted, and stays a file like any other. */
  async #parse(item: Held): Promise<void> {
    let records: Records;
    try {
      const contents = await this.#bytes(item, RECORDS_MAX_BYTES);
      records = parseRecords(item.format ?? '', contents, item.path);
    } catch {
      this.#unreadable += 1;
      return;
    }
    const source = sourceOf(item);
    if (records.kind === 'contacts') {
      this.#people.add(records.contacts);
      this.#contacts.push(...records.contacts);
    }
    if (records.kind === 'calls') this.#calls.push(...records.calls);
    if (records.kind === 'messages') this.#collected.add(source, records.messages);
    if (records.kind === 'threads') {
      for (const thread of records.threads) this.#collected.addThread(source, thread);
    }
  }

  async #bytes({ record, bytes }: Held, atMost: number): Promise<Buffer> {
    if (bytes > atMost)
      throw new Failure('input-not-valid', { what: 'That is too large to be shown.' });
    const pieces: Uint8Array[] = [];
    for await (const piece of this.#archive.contents(record)) pieces.push(piece);
    return Buffer.concat(pieces);
  }

  amounts(): LookAmounts {
    return {
      backupTakenAt: this.#takenAt,
      items: this.#items.length,
      isAll: this.#isAll,
      isCut: this.#isCut,
      classes: [...this.#byClass].map(([dataClass, { items, bytes }]) => ({
        ...{ class: dataClass, items: items.length, bytes },
      })),
      conversations: this.#conversations.length,
      messages: this.#conversations.reduce((sum, { said }) => sum + said.length, 0),
      contacts: this.#contacts.length,
      calls: this.#calls.length,
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
      .map(({ at, attachment, ...said }, n) => {
        const item = attachment === null ? undefined : this.#byPath.get(attachment);
        const isPicture = item !== undefined && this.#isPicture(item);
        return {
          ...{ ...said, index: from + n, at: new Date(at).toISOString() },
          picture: isPicture ? item : null,
          attached: attachment === null || isPicture ? null : nameOf(attachment),
        };
      });
    return { conversation: headOf(conversation), rows, months: monthsOf(conversation.said) };
  }

  search(text: string, within: number | null): { rows: LookHit[]; total: number } {
    const { hits, total } = this.#searching.find(text, {
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
    const wanted = folded(text.trim());
    const all = this.#byClass.get(dataClass)?.items ?? [];
    const found =
      wanted === ''
        ? all
        : all.filter((item) => folded(this.#items[item]?.path ?? '').includes(wanted));
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

  contacts(text: string, from: number): { rows: LookContact[]; total: number } {
    return someOf(
      this.#contacts.filter(({ name, numbers }) => isMeant(text, name, numbers)),
      from,
    );
  }

  /** The newest first, each with whose the number is. */
  calls(text: string, from: number): { rows: LookCall[]; total: number } {
    const found = this.#calls.flatMap(({ at, ...call }) => {
      const name = this.#people.of(call.number).name;
      return isMeant(text, name, [call.number]) ? [{ ...call, name, at: at.toISOString() }] : [];
    });
    return someOf(found, from);
  }

  /** A picture of it, drawn anew: what a device says is a picture goes to no browser as it is. @throws Failure `not-found` */
  async picture(item: number, pixels: number): Promise<Buffer> {
    const held = this.#items[item];
    if (!held || !this.#isPicture(item)) throw new Failure('not-found');
    const contents = await this.#bytes(held, PICTURE_MAX_BYTES);
    const { default: sharp } = await import('sharp');
    try {
      return await sharp(contents, { limitInputPixels: PICTURE_MAX_PIXELS })
        .rotate()
        .resize({ width: pixels, height: pixels, fit: 'inside', withoutEnlargement: true })
        .webp({ quality: 80 })
        .toBuffer();
    } catch (cause) {
      // The words of a decoder may hold what is in the picture.
      throw new Failure('input-not-valid', { what: 'That picture cannot be drawn.' }, { cause });
    }
  }

  #isPicture(item: number): boolean {
    const held = this.#items[item];
    return held?.class !== NEVER_SHOWN && pictures.has(held?.format ?? '');
  }
}

const byName = new Intl.Collator('en', { sensitivity: 'base', numeric: true });

const someOf = <Row>(all: readonly Row[], from: number) => ({
  rows: all.slice(from, from + ROWS_AT_ONCE),
  total: all.length,
});

/** By letters of a name, or a number however it is written. */
function isMeant(text: string, name: string, numbers: readonly string[]): boolean {
  const wanted = folded(text.trim());
  const digits = numberEnd(text);
  return (
    folded(name).includes(wanted) ||
    (digits.length > 2 && numbers.some((number) => digitsOf(number).includes(digits)))
  );
}

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
