import type { Message } from '../records/message.js';
import type { Thread } from '../records/thread.js';
import { findable, type Findable, type Meant } from './meant.js';
import type { People } from './people.js';

/** Whoever the device belongs to, as formats call them. */
const OWNER = 'me';

/** One message, as it is read. All of it is the customer's. */
export interface Said {
  /** UTC, ms since 1970. */
  at: number;
  isOwn: boolean;
  /** Who said it; empty for the device's owner. */
  from: string;
  text: string;
  /** A path on the device; null for none. */
  attachment: string | null;
  /** Where it was said: `Messages`, or an application's name. */
  source: string;
}

/** A conversation: with one person, wherever they wrote, or of a group. */
export interface Conversation {
  /** Its number in this look: nothing of whose it is. */
  id: number;
  /** Those who are in it beside the owner, by name. */
  people: string[];
  isGroup: boolean;
  /** More than one where it was joined: the same person, in several applications. */
  sources: string[];
  /** In the order of time. */
  said: Said[];
}

interface Collected {
  source: string;
  thread: Thread | null;
  messages: Message[];
}

/** Collects what was said, from many files, and tells it as conversations. */
export class Conversations {
  readonly #threads = new Map<string, Collected>();

  add(source: string, messages: readonly Message[]): void {
    for (const message of messages) this.#of(source, message.thread).messages.push(message);
  }

  addThread(source: string, thread: Thread): void {
    this.#of(source, thread.name).thread = thread;
  }

  #of(source: string, name: string): Collected {
    const key = `${source}\n${name}`;
    const known = this.#threads.get(key);
    if (known) return known;
    const collected = { source, thread: null, messages: [] };
    this.#threads.set(key, collected);
    return collected;
  }

  /** All of them, that with the newest message first. @param people whose the numbers are */
  told(people: People): Conversation[] {
    const joined = new Map<string, Omit<Conversation, 'id'>>();
    for (const [key, { source, thread, messages }] of this.#threads) {
      if (messages.length === 0) continue;
      const numbers = new Set([
        ...(thread?.members ?? []),
        ...messages.map(({ from }) => from).filter((from) => from !== OWNER),
      ]);
      const others = new Map(
        [...numbers].map((number) => [people.of(number).id, people.of(number).name]),
      );
      const isGroup = thread?.isGroup ?? others.size > 1;
      const [only] = others.keys();
      // With one person it is one conversation, wherever they wrote; a group is itself.
      const whose = isGroup || others.size !== 1 || only === undefined ? key : only;
      const conversation = joined.get(whose) ?? {
        ...{ people: [...others.values()].sort(), isGroup, sources: [], said: [] },
      };
      joined.set(whose, conversation);
      if (!conversation.sources.includes(source)) conversation.sources.push(source);
      for (const { at, from, text, attachment } of messages) {
        const isOwn = from === OWNER;
        conversation.said.push({
          ...{ at: at.getTime(), isOwn, from: isOwn ? '' : people.of(from).name },
          ...{ text, attachment, source },
        });
      }
    }
    const all = [...joined.values()];
    // Equal moments stay in the order in which the device has them.
    for (const { said } of all) said.sort((a, b) => a.at - b.at);
    return all
      .sort((a, b) => (b.said.at(-1)?.at ?? 0) - (a.said.at(-1)?.at ?? 0))
      .map((conversation, id) => ({ id, ...conversation }));
  }
}

/** How much there is in a month, and where in the list that begins. */
export interface Month {
  /** As `2026-03`, UTC. */
  month: string;
  count: number;
  first: number;
}

/** The months in which there is anything, in the order of the list, which is one of time. */
export function monthsOf(said: readonly { at: number }[]): Month[] {
  const months: Month[] = [];
  // Asked of hundreds of thousands: a date is made only where a month ends.
  let [from, to] = [Infinity, -Infinity];
  said.forEach(({ at }, first) => {
    const last = months.at(-1);
    if (last && at >= from && at < to) {
      last.count += 1;
      return;
    }
    const day = new Date(at);
    from = Date.UTC(day.getUTCFullYear(), day.getUTCMonth(), 1);
    to = Date.UTC(day.getUTCFullYear(), day.getUTCMonth() + 1, 1);
    months.push({ month: day.toISOString().slice(0, 7), count: 1, first });
  });
  return months;
}

/** A message that has what was looked for, and where it stands. */
export interface Hit {
  conversation: number;
  index: number;
}

/** Finds what was said: made once, asked often. */
export class Searching {
  readonly #places: Hit[] = [];
  readonly #said: Findable[] = [];

  constructor(conversations: readonly Conversation[]) {
    const places: (Hit & { said: Findable })[] = [];
    for (const { id, said, people, isGroup } of conversations) {
      // In a conversation with one person, all of it is with them.
      const whole = isGroup ? '' : people.join(' ');
      said.forEach(({ at, from, text }, index) => {
        const who = isGroup ? from : whole;
        places.push({ conversation: id, index, said: findable(`${text}\n${who}`, at) });
      });
    }
    places.sort((a, b) => (b.said.at ?? 0) - (a.said.at ?? 0));
    for (const { conversation, index, said } of places) {
      this.#places.push({ conversation, index });
      this.#said.push(said);
    }
  }

  /**
   * What fits, the newest first.
   * @param within only in this conversation
   */
  find(
    meant: Meant,
    { atMost, within }: { atMost: number; within?: number | undefined },
  ): { hits: Hit[]; total: number } {
    const hits: Hit[] = [];
    let total = 0;
    if (meant.isNothing) return { hits, total };
    this.#said.forEach((said, n) => {
      const place = this.#places[n];
      if (!place || (within !== undefined && place.conversation !== within)) return;
      if (!meant.fits(said)) return;
      total += 1;
      if (hits.length < atMost) hits.push(place);
    });
    return { hits, total };
  }
}
