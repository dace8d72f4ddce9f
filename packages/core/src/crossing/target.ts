import { groupOfPath, type DataClass, takingOf, type Takes, type Taking } from '../device/index.js';
import { kindOf, type Records, type RecordsKind } from '../formats/index.js';
import type { Message } from '../records/message.js';
import type { Thread } from '../records/thread.js';
import { identityOf, listOf, sameKey, type AnyRecord } from '../records/fields.js';
import type { StayReason } from './report.js';

/** An item of a backup, as far as it matters where it goes. */
export interface SourceItem {
  class: DataClass;
  kind: 'file' | 'folder' | 'link';
  path: string;
  format?: string | null | undefined;
}

/** How an item goes over: its bytes, the records in it, or not at all. */
export type Way =
  | { way: 'file'; isShown: boolean }
  | { way: 'records'; taking: Taking; kind: RecordsKind }
  /** It says who is in a conversation, which the device finds out from the messages. */
  | { way: 'aside' }
  | { way: 'stays'; why: StayReason };

/** Nobody keeps what another family meant by it. */
const ofItsFamily: ReadonlySet<DataClass> = new Set<DataClass>(['settings', 'saved-passwords']);

/** Counts of what is there, so that what is there twice is known twice. */
type Counts = Map<string, number>;
const countUp = (counts: Counts, key: string) => counts.set(key, (counts.get(key) ?? 0) + 1);

/** What a device takes, and what is on it by now: what was there, and what came since. */
export class CrossingTarget {
  readonly #takes: Takes;
  readonly #isSameFamily: boolean;
  readonly #paths = new Set<string>();
  readonly #applications = new Set<string>();
  readonly #known = new Map<RecordsKind, { same: Counts; identities: Set<string> }>();
  /** The folder of each conversation, by who is in it. */
  readonly #conversations = new Map<string, string>();
  readonly #folders = new Set<string>();
  /** Conversations of which the device says itself who is in them. */
  readonly #told = new Set<string>();
  readonly #placed = new Map<string, string>();
  readonly #lastNumber = new Map<string, number>();

  constructor(takes: Takes, isSameFamily: boolean) {
    this.#takes = takes;
    this.#isSameFamily = isSameFamily;
  }

  /** Something that is on it; what says who is in conversations comes first. @param records what is in it, where that can be read */
  holds(item: Pick<SourceItem, 'class' | 'path'>, records: Records | null): void {
    this.#paths.add(item.path);
    if (item.class === 'messages') this.#folders.add(groupOfPath(item.path));
    if (!records) return;
    for (const record of listOf(records)) this.knows(records.kind, record);
    if (records.kind === 'threads') {
      for (const one of records.threads) {
        this.#conversations.set(peopleOf(one), one.name);
        this.#told.add(one.name);
      }
    }
    if (records.kind !== 'messages' || item.class !== 'messages') return;
    const name = groupOfPath(item.path);
    if (this.#told.has(name)) return;
    // Where nothing says who is in it: those who wrote.
    const thread = threadOf(name, records.messages);
    const people = peopleOf(thread);
    if (!this.#conversations.has(people)) this.#conversations.set(people, thread.name);
  }

  /** It has an application with data of its own, which nothing is mixed into. */
  ownsApplication(application: string): void {
    this.#applications.add(application);
  }

  knows(kind: RecordsKind, record: AnyRecord): void {
    const known = this.#of(kind);
    countUp(known.same, sameKey(kind, record));
    const identity = identityOf(kind, record);
    if (identity !== null) known.identities.add(identity);
  }

  #of(kind: RecordsKind) {
    let known = this.#known.get(kind);
    if (!known) {
      known = { same: new Map<string, number>(), identities: new Set<string>() };
      this.#known.set(kind, known);
    }
    return known;
  }

  /** Whether it has this very record; one of those that it has then stands for it, and for no other. */
  claims(kind: RecordsKind, record: AnyRecord): boolean {
    const { same } = this.#of(kind);
    const key = sameKey(kind, record);
    const count = same.get(key) ?? 0;
    if (count === 0) return false;
    same.set(key, count - 1);
    return true;
  }

  /** Whether it has another version of it. */
  hasVersionOf(kind: RecordsKind, record: AnyRecord): boolean {
    const identity = identityOf(kind, record);
    return identity !== null && this.#of(kind).identities.has(identity);
  }

  wayOf(item: SourceItem): Way {
    const { class: dataClass, format = null } = item;
    if (dataClass === 'applications') return this.#wayOfApplication(groupOfPath(item.path));
    const kind = item.kind === 'file' ? kindOf(format) : null;
    if (kind !== null) {
      const taking = takingOf(this.#takes, dataClass, format) ?? this.takingOfKind(dataClass, kind);
      if (taking) return { way: 'records', taking, kind };
      if (kind === 'threads' && !this.#isSameFamily) return { way: 'aside' };
    }
    if (this.#isSameFamily) return { way: 'file', isShown: true };
    const plain = item.kind === 'file' && kind === null && takingOf(this.#takes, dataClass, null);
    if (!plain)
      return { way: 'stays', why: ofItsFamily.has(dataClass) ? 'of-its-family' : 'no-place' };
    return {
      way: 'file',
      isShown: plain.shows.length === 0 || plain.shows.includes(format ?? ''),
    };
  }

  takingOfKind(dataClass: DataClass, kind: RecordsKind): Taking | null {
    const { items } = this.#takes;
    return items.find((one) => one.class === dataClass && kindOf(one.format) === kind) ?? null;
  }

  #wayOfApplication(application: string): Way {
    const stays = (why: StayReason): Way => ({ way: 'stays', why });
    if (this.#applications.has(application)) return stays('own-there');
    if (this.#isSameFamily) return { way: 'file', isShown: true };
    const there = this.#takes.applications.find(({ id }) => id === application);
    if (!there) return stays('no-application');
    return there.crosses ? { way: 'file', isShown: true } : stays('keeps-own');
  }

  has(path: string): boolean {
    return this.#paths.has(path);
  }

  /** Whether a file that differs from the one at its path may lie beside it: of what the device keeps once only, there is no second. */
  mayLieBeside(dataClass: DataClass): boolean {
    return takingOf(this.#takes, dataClass, null) !== null;
  }

  /** A path that is free, as near to the wanted one as there is; it is taken from now on. */
  freePath(wanted: string): string {
    let path = wanted;
    for (let n = 2; this.#paths.has(path); n += 1) {
      path = wanted.replace(/(?=\.[^./]*$)|$/, ` (${n})`);
    }
    this.#paths.add(path);
    return path;
  }

  /** A number that no file of such a place has yet. @param pathOf the place with a number in it */
  freeNumber(place: string, pathOf: (number: string) => string): string {
    for (let n = (this.#lastNumber.get(place) ?? 0) + 1; ; n += 1) {
      const path = pathOf(String(n).padStart(4, '0'));
      if (this.#paths.has(path)) continue;
      this.#lastNumber.set(place, n);
      this.#paths.add(path);
      return path;
    }
  }

  /** The folder in which a conversation is, or will be: that of the same people, or one of the name it had, where that is free. */
  folderOf(thread: Thread): string {
    const folder = this.#folderOf(thread);
    this.#placed.set(thread.name, folder);
    return folder;
  }

  /** The folder that a conversation of the backup has here, by its name there. */
  placeOf(conversation: string): string {
    return this.#placed.get(conversation) ?? conversation;
  }

  #folderOf(thread: Thread): string {
    const people = peopleOf(thread);
    const known = this.#conversations.get(people);
    if (known !== undefined) return known;
    const wanted = safeName(thread.name);
    let folder = wanted;
    for (let n = 2; this.#folders.has(folder); n += 1) folder = `${wanted}-${n}`;
    this.#folders.add(folder);
    this.#conversations.set(people, folder);
    return folder;
  }
}

const peopleOf = (thread: Thread): string =>
  `${thread.isGroup ? thread.name : ''} ${sameKey('threads', thread)}`;

/** As a folder may be called: a number without its spaces. */
const safeName = (name: string): string =>
  name.replaceAll(/[^\p{L}\p{N}_-]+/gu, '-').replaceAll(/^-+|-+$/g, '') || 'conversation';

/** Who is in a conversation, as far as what was said in it tells. */
export function threadOf(name: string, messages: readonly Message[]): Thread {
  const numbers = /^[+\d][\d +,()-]*$/.test(name)
    ? name.split(',')
    : [...new Set(messages.map(({ from }) => from))].filter((from) => from !== 'me' && from !== '');
  return { name, isGroup: numbers.length > 1, members: numbers };
}
