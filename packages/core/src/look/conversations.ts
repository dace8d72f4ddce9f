import type { Message } from '../records/message.js';
import type { Thread } from '../records/thread.js';
import { digitsOf, folded, numberEnd } from './fold.js';
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

/** How much was said in a month, and where in the conversation that begins. */
export interface Month {
  /** As `2026-03`, UTC. */
  month: string;
  messages: number;
  first: number;
}

/** The months in which anything was said, in their order. */
export function monthsOf(said: readonly Said[]): Month[] {
  const months: Month[] = [];
  said.forEach(({ at }, first) => {
    const month = new Date(at).toISOString().slice(0, 7);
    const last = months.at(-1);
    if (last?.month === month) last.messages += 1;
    else months.push({ month, messages: 1, first });
  });
  return months;
}

/** A message that has what was looked for, and where it stands. */
export interface Hit {
  conversation: number;
  index: number;
}

/** So many digits make a number that is looked for however it is written. */
const DIGITS_LEAST = 4;

/** Finds words in what was said: made once, asked often. */
export class Searching {
  readonly #places: Hit[] = [];
  readonly #texts: string[] = [];
  readonly #digits = new Map<number, string>();

  constructor(conversations: readonly Conversation[]) {
    const places: (Hit & { at: number; text: string })[] = [];
    const names = new Map<string, string>();
    const nameOf = (name: string) => {
      const known = names.get(name) ?? folded(name);
      names.set(name, known);
      return known;
    };
    for (const { id, said, people, isGroup } of conversations) {
      // In a conversation with one person, all of it is with them.
      const whole = isGroup ? '' : people.map(nameOf).join(' ');
      said.forEach(({ at, from, text }, index) => {
        const who = isGroup ? nameOf(from) : whole;
        places.push({ conversation: id, index, at, text: `${folded(text)}\n${who}` });
      });
    }
    places.sort((a, b) => b.at - a.at);
    places.forEach(({ conversation, index, text }, n) => {
      this.#places.push({ conversation, index });
      this.#texts.push(text);
      if (/\d.*\d.*\d.*\d/.test(text)) this.#digits.set(n, digitsOf(text));
    });
  }

  /**
   * What has every word, the newest first.
   * @param within only in this conversation
   */
  find(
    text: string,
    { atMost, within }: { atMost: number; within?: number | undefined },
  ): { hits: Hit[]; total: number } {
    const words = folded(text).split(/\s+/).filter(Boolean);
    const number = isNumber(text) ? numberEnd(text) : null;
    if (words.length === 0) return { hits: [], total: 0 };
    const hits: Hit[] = [];
    let total = 0;
    this.#texts.forEach((said, n) => {
      const place = this.#places[n];
      if (!place || (within !== undefined && place.conversation !== within)) return;
      const has =
        words.every((word) => said.includes(word)) ||
        (number !== null && this.#digits.get(n)?.includes(number) === true);
      if (!has) return;
      total += 1;
      if (hits.length < atMost) hits.push(place);
    });
    return { hits, total };
  }
}

/** A number, however it is written: nothing but digits and what people put between them. */
const isNumber = (text: string): boolean =>
  /^[\d\s()+./-]+$/.test(text) && digitsOf(text).length >= DIGITS_LEAST;
