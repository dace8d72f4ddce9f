import type { Message } from '../records/message.js';
import type { Thread } from '../records/thread.js';
import { Findables } from './findables.js';
import type { Meant } from './meant.js';
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

  /** All of them, that with the newest message first. What was collected is theirs then. @param people whose the numbers are */
  told(people: People): Conversation[] {
    const joined = new Map<string, Omit<Conversation, 'id'>>();
    for (const [key, { source, thread, messages }] of this.#threads) {
      this.#threads.delete(key);
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
        // Written out: what is spread takes several times as much, and there are very many.
        conversation.said.push({
          at: at.getTime(),
          isOwn,
          from: isOwn ? '' : people.of(from).name,
          text,
          attachment,
          source,
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

/** The months in which there is anything, in the order of the list, which is one of time. @param times ms since 1970 */
export function monthsOf(times: Iterable<number>): Month[] {
  const months: Month[] = [];
  // Asked of hundreds of thousands: a date is made only where a month ends.
  let [from, to] = [Infinity, -Infinity];
  let first = -1;
  for (const at of times) {
    first += 1;
    const last = months.at(-1);
    if (last && at >= from && at < to) {
      last.count += 1;
      continue;
    }
    const day = new Date(at);
    from = Date.UTC(day.getUTCFullYear(), day.getUTCMonth(), 1);
    to = Date.UTC(day.getUTCFullYear(), day.getUTCMonth() + 1, 1);
    months.push({ month: day.toISOString().slice(0, 7), count: 1, first });
  }
  return months;
}

/** A message that has what was looked for, and where it stands. */
export interface Hit {
  conversation: number;
  index: number;
}

/** Finds what was said: made once, asked often. */
export class Searching {
  /** Places by number, the newest first: the conversation, and where in it. */
  readonly #conversations: Uint32Array;
  readonly #indexes: Uint32Array;
  readonly #said: Findables;

  constructor(conversations: readonly Conversation[]) {
    const count = conversations.reduce((sum, { said }) => sum + said.length, 0);
    const of = new Uint32Array(count);
    const index = new Uint32Array(count);
    const times = new Float64Array(count);
    let n = 0;
    conversations.forEach(({ said }, number) => {
      said.forEach(({ at }, place) => {
        [of[n], index[n], times[n]] = [number, place, at];
        n += 1;
      });
    });
    const order = of.map((_, one) => one).sort((a, b) => (times[b] ?? 0) - (times[a] ?? 0));
    this.#conversations = order.map((one) => of[one] ?? 0);
    this.#indexes = order.map((one) => index[one] ?? 0);
    // In a conversation with one person, all of it is with them.
    const whole = conversations.map(({ isGroup, people }) => (isGroup ? null : people.join(' ')));
    const texts = function* () {
      for (const one of order) {
        const said = conversations[of[one] ?? 0]?.said[index[one] ?? 0];
        const who = whole[of[one] ?? 0] ?? said?.from ?? '';
        yield { text: `${said?.text ?? ''}\n${who}`, at: times[one] ?? null };
      }
    };
    this.#said = new Findables(texts());
  }

  /**
   * What fits, the newest first.
   * @param within only in this conversation
   */
  find(
    meant: Meant,
    { atMost, within }: { atMost: number; within?: number | undefined },
  ): { hits: Hit[]; total: number } {
    if (meant.isNothing) return { hits: [], total: 0 };
    const all = this.#said.find(meant);
    const found = within === undefined ? all : all.filter((n) => this.#conversations[n] === within);
    const hits = found.slice(0, atMost).map((n) => ({
      conversation: this.#conversations[n] ?? 0,
      index: this.#indexes[n] ?? 0,
    }));
    return { hits, total: found.length };
  }
}
