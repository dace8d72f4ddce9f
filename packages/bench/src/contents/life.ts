import { Chance } from './random.js';

/** A made-up person's life: the same people and places run through everything on one device. */
export interface Person {
  given: string;
  family: string;
  /** From a range kept for fiction. */
  phone: string;
  email: string;
  birthday: Date | null;
}

export interface Place {
  name: string;
  /** Degrees; all lie on open water, where nobody lives. */
  latitude: number;
  longitude: number;
}

export interface Life {
  chance: Chance;
  owner: Person;
  people: Person[];
  places: Place[];
  /** When the device was new, and the last day on it. */
  from: Date;
  until: Date;
}

const GIVEN = [
  'Anouk',
  'Bram',
  'Celyn',
  'Dorrit',
  'Edda',
  'Fenn',
  'Greta',
  'Hale',
  'Iris',
  'Joss',
  'Kerensa',
  'Linus',
  'Mira',
  'Nils',
  'Orla',
  'Piet',
  'Quill',
  'Runa',
  'Sefa',
  'Tamsin',
  'Ulla',
  'Viggo',
  'Wren',
  'Yana',
  'Zeno',
] as const;
const FAMILY_START = [
  'Ash',
  'Birch',
  'Crag',
  'Dun',
  'Elder',
  'Fern',
  'Gorse',
  'Haw',
  'Kel',
  'Lin',
  'Moss',
  'Nettle',
  'Oak',
  'Pebble',
  'Quarry',
  'Rush',
  'Salt',
  'Thistle',
  'Wick',
  'Yarrow',
] as const;
const FAMILY_END = [
  'bank',
  'combe',
  'dale',
  'field',
  'gate',
  'holt',
  'lock',
  'mere',
  'sted',
  'water',
] as const;
const PLACE_NAMES = [
  'Harrowmere quay',
  'Gull Rock',
  'the old tannery',
  'Saltmarsh lane',
  'Beacon hill',
  'the allotments',
  'Kettle ford',
  'North mole',
  'the orchard',
  'Lantern steps',
] as const;

const DAY = 86_400_000;

function person(chance: Chance, number: number): Person {
  const given = chance.pick(GIVEN);
  const family = chance.pick(FAMILY_START) + chance.pick(FAMILY_END);
  return {
    given,
    family,
    phone: `+44 7700 900${String(number % 1000).padStart(3, '0')}`,
    email: `${given}.${family}${number}@example.org`.toLowerCase(),
    birthday: chance.happens(0.4)
      ? new Date(Date.UTC(chance.whole(1945, 2015), chance.whole(0, 11), chance.whole(1, 28)))
      : null,
  };
}

const BEGAN = new Date(Date.UTC(2024, 1, 3));

/** @param people how many the owner knows. @param from when they got their first device */
export function makeLife(seed: string, people: number, from = BEGAN): Life {
  const chance = new Chance(seed);
  return {
    chance,
    owner: person(chance, 0),
    people: Array.from({ length: people }, (_, i) => person(chance, i + 1)),
    places: PLACE_NAMES.map((name) => ({
      name,
      latitude: 47.2 + chance.share() * 0.2,
      longitude: -25.3 + chance.share() * 0.2,
    })),
    from,
    until: new Date(Date.UTC(2026, 10, 20)),
  };
}

/** A moment of this life, more often by day than by night. */
export function moment(life: Life): Date {
  const days = (life.until.getTime() - life.from.getTime()) / DAY;
  const hour = life.chance.pick([7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23]);
  return new Date(
    life.from.getTime() +
      Math.floor(life.chance.share() * days) * DAY +
      hour * 3_600_000 +
      life.chance.whole(0, 3_599) * 1000,
  );
}

const OPENERS = [
  'Are you coming to',
  'I left the key at',
  'See you at',
  'It rained all day at',
  'We found a table at',
  'Meet me near',
  'They mended the bench at',
  'I can pick you up from',
] as const;
const CLOSERS = [
  'before supper?',
  'as usual.',
  'with the children.',
  'at about five.',
  'and bring a coat.',
  'if the bus runs.',
  'tomorrow, I think.',
  'when you have time.',
] as const;

export function sentence(life: Life): string {
  const { chance, places } = life;
  return `${chance.pick(OPENERS)} ${chance.pick(places).name} ${chance.pick(CLOSERS)}`;
}

export function paragraphs(life: Life, count: number): string {
  return Array.from({ length: count }, () =>
    Array.from({ length: life.chance.whole(2, 6) }, () => sentence(life)).join(' '),
  ).join('\n\n');
}

/** The months that it has lasted, as `2026-11`. */
export function monthsOf(life: Life): string[] {
  const months: string[] = [];
  for (const at = new Date(life.from); at <= life.until; at.setUTCMonth(at.getUTCMonth() + 1)) {
    months.push(at.toISOString().slice(0, 7));
  }
  return months;
}
