import { distance } from 'fastest-levenshtein';
import { digitsOf, folded, numberEnd } from '../look/fold.js';
import type { Contact } from '../records/contact.js';
import { personReasons, type PersonReason } from './rules.js';

export interface SamePerson {
  /** Places in the list, the earlier first. */
  one: number;
  other: number;
  score: number;
  reasons: PersonReason[];
  isCertain: boolean;
}

const CERTAIN_FROM = 6;
/** However much else is the same: a family has one number, and one mail address. */
const doubts: ReadonlySet<PersonReason> = new Set<PersonReason>(['other-name', 'other-birthday']);
const PROPOSED_FROM = 2.5;
/** What more cards than these have in common tells nothing of two of them. */
const BLOCK_AT_MOST = 40;
/** A number that more cards than these have belongs to a place. */
const SHARED_FROM = 3;
/** Names of which so much is the same are alike, of 1. */
const ALIKE_FROM = 0.84;

/** A card as it compares. */
interface Compared {
  names: string[];
  numbers: Set<string>;
  mails: Set<string>;
  addresses: Set<string>;
  birthday: string;
  organisation: string;
}

const nameWords = (name: string): string[] =>
  folded(name)
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== '' && !TITLES.has(word));
const TITLES = new Set(['mr', 'mrs', 'ms', 'dr', 'prof', 'sir', 'jr', 'sr']);

const comparedOf = (contact: Contact): Compared => ({
  names: nameWords(contact.name),
  // Two digits are a service, or the start of something.
  numbers: new Set(contact.numbers.filter((one) => digitsOf(one).length > 4).map(numberEnd)),
  mails: new Set(contact.emails.map((mail) => mail.trim().toLowerCase())),
  addresses: new Set(contact.addresses.map((one) => nameWords(one).join(' '))),
  birthday: contact.birthday,
  organisation: folded(contact.organisation.trim()),
});

/** Cards that may be one person's share one of these. */
function blocksOf({ names, numbers, mails }: Compared): string[] {
  const sorted = names.toSorted();
  return [
    ...[...numbers].map((one) => `number ${one}`),
    ...[...mails].map((one) => `mail ${one}`),
    ...(names.length > 0 ? [`name ${sorted.join(' ')}`] : []),
    // A letter may be wrong, or a word more: whichever of them is the family name.
    ...names.map((word) => `word ${word.slice(0, 5)}${initialsBeside(names, word)}`),
  ];
}
const initialsBeside = (names: readonly string[], word: string): string =>
  names.length === 1
    ? ''
    : ` ${
        names
          .filter((one) => one !== word)
          .map((one) => one[0])
          .toSorted()[0] ?? ''
      }`;

const meets = (some: ReadonlySet<string>, others: ReadonlySet<string>): string | null => {
  for (const one of some) if (others.has(one)) return one;
  return null;
};

function alikeNames(one: readonly string[], other: readonly string[]): PersonReason | null {
  if (one.length === 0 || other.length === 0) return null;
  const [a, b] = [one.toSorted().join(' '), other.toSorted().join(' ')];
  if (a === b) return one.length > 1 ? 'same-name' : 'same-word';
  const [few, many] = one.length <= other.length ? [one, other] : [other, one];
  // A letter stands for a name that begins with it.
  const isIn = (word: string) =>
    many.some((whole) => whole === word || (word.length === 1 && whole.startsWith(word)));
  if (few.length > 1 && few.every(isIn)) return 'alike-name';
  const likeness = 1 - distance(a, b) / Math.max(a.length, b.length);
  return likeness >= ALIKE_FROM ? 'alike-name' : 'other-name';
}

function alikeNumbers(
  one: ReadonlySet<string>,
  other: ReadonlySet<string>,
  sharedBy: ReadonlyMap<string, number>,
): PersonReason | null {
  if (one.size === 0 || other.size === 0) return null;
  const number = meets(one, other);
  if (number === null) return 'other-numbers';
  if ((sharedBy.get(number) ?? 0) > SHARED_FROM) return 'shared-number';
  const hasOwn = (mine: ReadonlySet<string>, theirs: ReadonlySet<string>) =>
    [...mine].some((each) => !theirs.has(each));
  return hasOwn(one, other) && hasOwn(other, one) ? 'one-number' : 'same-number';
}

function compare(one: Compared, other: Compared, sharedBy: ReadonlyMap<string, number>) {
  const reasons: PersonReason[] = [];
  const ofNumbers = alikeNumbers(one.numbers, other.numbers, sharedBy);
  if (ofNumbers) reasons.push(ofNumbers);
  if (meets(one.mails, other.mails) !== null) reasons.push('same-mail');
  const ofNames = alikeNames(one.names, other.names);
  if (ofNames) reasons.push(ofNames);
  if (one.birthday !== '' && other.birthday !== '') {
    const isSame = one.birthday.slice(-5) === other.birthday.slice(-5);
    const years = [one.birthday, other.birthday].filter((day) => !day.startsWith('--'));
    const isOther = !isSame || (years.length === 2 && one.birthday !== other.birthday);
    reasons.push(isOther ? 'other-birthday' : 'same-birthday');
  }
  if (meets(one.addresses, other.addresses) !== null) reasons.push('same-address');
  if (one.organisation !== '' && one.organisation === other.organisation)
    reasons.push('same-organisation');
  const score = reasons.reduce((sum, reason) => sum + personReasons[reason].weighs, 0);
  return { reasons, score };
}

/** Pairs that share a block; each once. */
function* sharing(cards: readonly Compared[], from: number): Generator<[number, number]> {
  const blocks = new Map<string, number[]>();
  for (const [at, card] of cards.entries()) {
    for (const block of new Set(blocksOf(card))) {
      const those = blocks.get(block);
      if (those) those.push(at);
      else blocks.set(block, [at]);
    }
  }
  const seen = new Set<number>();
  for (const those of blocks.values()) {
    if (those.length > BLOCK_AT_MOST) continue;
    for (const [i, one] of those.entries()) {
      for (const other of those.slice(i + 1)) {
        // Of two lists behind each other only one of each.
        if (from > 0 && one < from === other < from) continue;
        const pair = one * cards.length + other;
        if (seen.has(pair)) continue;
        seen.add(pair);
        yield [one, other];
      }
    }
  }
}

function found(contacts: readonly Contact[], from: number): SamePerson[] {
  const cards = contacts.map(comparedOf);
  const sharedBy = new Map<string, number>();
  for (const { numbers } of cards)
    for (const number of numbers) sharedBy.set(number, (sharedBy.get(number) ?? 0) + 1);
  const all: SamePerson[] = [];
  for (const [one, other] of sharing(cards, from)) {
    const [a, b] = [cards[one], cards[other]];
    if (!a || !b) continue;
    const { score, reasons } = compare(a, b, sharedBy);
    if (score < PROPOSED_FROM) continue;
    all.push({
      one,
      other,
      score,
      reasons,
      isCertain: score >= CERTAIN_FROM && !reasons.some((reason) => doubts.has(reason)),
    });
  }
  return all.toSorted((a, b) => b.score - a.score || a.one - b.one || a.other - b.other);
}

/** Cards in one list that may be the same person's, the surest first. */
export const samePersons = (contacts: readonly Contact[]): SamePerson[] => found(contacts, 0);

/** Which of two lists are certainly the same person's, each once, the surest first. @returns places in both */
export function certainPairs(
  one: readonly Contact[],
  other: readonly Contact[],
): [one: number, other: number][] {
  const taken = new Set<number>();
  return found([...one, ...other], one.length).flatMap((pair) => {
    if (!pair.isCertain || taken.has(pair.one) || taken.has(pair.other)) return [];
    taken.add(pair.one);
    taken.add(pair.other);
    return [[pair.one, pair.other - one.length] as [number, number]];
  });
}

/** Two cards as one: every value of both; where only one can stand, the first's. */
export function joined(first: Contact, second: Contact): Contact {
  const both = (name: 'numbers' | 'emails' | 'addresses', keyOf: (one: string) => string) => {
    const byKey = new Map<string, string>();
    for (const one of [...first[name], ...second[name]])
      if (!byKey.has(keyOf(one))) byKey.set(keyOf(one), one);
    return [...byKey.values()];
  };
  const notes = [...new Set([first.note, second.note].filter((note) => note !== ''))];
  return {
    name: first.name || second.name,
    numbers: both('numbers', (one) => numberEnd(one) || one),
    emails: both('emails', (one) => one.toLowerCase()),
    addresses: both('addresses', (one) => one),
    birthday: first.birthday || second.birthday,
    organisation: first.organisation || second.organisation,
    note: notes.join('\n'),
    picture: first.picture ?? second.picture,
  };
}
