import { expect, test } from 'vitest';
import { noContact, type Contact } from '../records/contact.js';
import { randomFrom } from '../test-random.js';
import { joined, samePersons } from './same-person.js';

const GIVEN =
  'Ana Anna Anne Ben Bente Carys Cas Celyn Dilys Dóra Eda Edda Finn Fionn Gwen Gwyn Hana Hanna Idris Ines Inès Jon John Joss Kai Kaja Lena Leni Mara Marta Márta Nia Nils Oda Olga Pia Rhys Ruth Siân Signe Tamsin Tove Una Vera Wren Yara Zoë'.split(
    ' ',
  );
const FAMILY = {
  from: 'Ash Bar Birk Cal Crane Dale Dorn Esk Far Fell Fern Garth Gorse Hal Heron Holm Kell Lark Lind Low Marl Mer Moss Nash Penn Quill Raven Row Sloe Stark Tarn Thorn Var Wade Weir Wil Wold Yar',
  to: 'ard bank brook by combe croft dale ell ey field ford gate ham hill ing land ley more ness ow rick shaw side son stead ton wick wood worth',
};
const [FIRST, LAST] = [FAMILY.from.split(' '), FAMILY.to.split(' ')];

const plain = (text: string) => text.normalize('NFKD').replace(/\p{M}/gu, '');

/**
 * People, some of one name, in households that share a number; some of them have a second card that somebody else wrote, or the same
 * person in another year.
 */
function madeSet(seed: number, people: number) {
  const random = randomFrom(seed);
  const pick = (all: readonly string[]) => all[random(all.length)] ?? '';
  const cards: { person: number; contact: Contact }[] = [];
  let household = { family: '', landline: '', left: 0, givens: new Set<string>() };
  for (let person = 0; person < people; person++) {
    if (household.left === 0)
      household = {
        family: `${pick(FIRST)}${pick(LAST)}`,
        landline: `0151 496 ${String(random(10_000)).padStart(4, '0')}`,
        left: 1 + random(4),
        givens: new Set(),
      };
    household.left -= 1;
    const { family, landline } = household;
    let given = pick(GIVEN);
    // Nobody calls two of their children the same; some are called as their parents are.
    const isNamesake = household.givens.has(given) && random(20) === 0;
    while (household.givens.has(given) && !isNamesake) given = pick(GIVEN);
    household.givens.add(given);
    const mobile = `7700 ${String(900_000 + person)}`;
    const mail = `${plain(given)}.${plain(family)}${person}@post.example`.toLowerCase();
    const day = `${1940 + random(70)}-${String(1 + random(12)).padStart(2, '0')}-${String(1 + random(28)).padStart(2, '0')}`;
    const first: Contact = {
      ...noContact,
      name: `${given} ${family}`,
      numbers: [`+44 ${mobile}`, ...(random(2) ? [landline] : [])],
      emails: random(2) ? [mail] : [],
      birthday: random(3) ? '' : day,
    };
    cards.push({ person, contact: first });
    if (random(3) > 0) continue;
    const ways: ((contact: Contact) => Contact)[] = [
      (card) => ({ ...card, numbers: [`0${mobile}`] }),
      (card) => ({ ...card, name: `${family}, ${given}` }),
      (card) => ({ ...card, name: plain(card.name), numbers: [`0044${mobile}`] }),
      (card) => ({ ...card, name: `${given} ${pick(['J.', 'M.', 'R.'])} ${family}` }),
      (card) => ({ ...card, name: `${given[0] ?? ''}. ${family}`, emails: [] }),
      // A wrong letter.
      (card) => ({ ...card, name: `${given} ${family.slice(0, -1)}e`, numbers: [`0${mobile}`] }),
      // One knows the number, one the address.
      (card) => ({ ...card, numbers: [], emails: [`${plain(given)}${person}@else.example`] }),
      (card) => ({ ...card, name: `Dr ${given} ${family}`, numbers: [landline, `0${mobile}`] }),
      // What only this customer calls them.
      (card) => ({ ...card, name: 'Nan', emails: [] }),
    ];
    const birthday = random(2) ? first.birthday : '';
    const second = ways[random(ways.length)]?.({ ...first, birthday }) ?? first;
    cards.push({ person, contact: second });
  }
  return cards;
}

test.each([1, 2, 3])(
  'what is proposed as certain is right, and most pairs are found (set %i)',
  (seed) => {
    const cards = madeSet(seed, 3_000);
    const all = samePersons(cards.map(({ contact }) => contact));
    const isRight = ({ one, other }: { one: number; other: number }) =>
      cards[one]?.person === cards[other]?.person;
    const certain = all.filter(({ isCertain }) => isCertain);
    const known = cards.length - 3_000;
    expect(certain.filter(isRight).length / certain.length).toBeGreaterThanOrEqual(0.99);
    expect(all.filter(isRight).length / known).toBeGreaterThanOrEqual(0.9);
    // Nobody reads a list that is mostly wrong.
    expect(all.filter(isRight).length / all.length).toBeGreaterThan(0.3);
    expect(certain.length).toBeGreaterThan(known / 2);
  },
);

test('each says why, and a family with one number and one address is not one person', () => {
  const card = (change: Partial<Contact>): Contact => ({ ...noContact, ...change });
  const home = { numbers: ['0151 496 0000'], emails: ['home@post.example'] };
  const [first] = samePersons([
    card({ name: 'Ana Fernhill', numbers: ['+44 7700 900111'] }),
    card({ name: 'Fernhill, Ana', numbers: ['07700 900111'] }),
  ]);
  expect(first).toMatchObject({ reasons: ['same-number', 'same-name'], isCertain: true });
  const family = samePersons([
    card({ name: 'Ana Fernhill', ...home }),
    card({ name: 'Idris Fernhill', ...home }),
  ]);
  expect(family.filter(({ isCertain }) => isCertain)).toEqual([]);
  const namesakes = samePersons([
    card({ name: 'Ana Fernhill', numbers: home.numbers, birthday: '1951-03-07' }),
    card({ name: 'Ana Fernhill', numbers: home.numbers, birthday: '1984-11-20' }),
  ]);
  expect(namesakes.filter(({ isCertain }) => isCertain)).toEqual([]);
});

test('two cards become one that has all of both', () => {
  const both = joined(
    { ...noContact, name: 'Ana Fernhill', numbers: ['+44 7700 900111'], note: 'Mill' },
    { ...noContact, name: 'Ana F.', numbers: ['07700 900111', '0151 496 0000'], note: 'Weir' },
  );
  expect(both).toMatchObject({
    ...{ name: 'Ana Fernhill', numbers: ['+44 7700 900111', '0151 496 0000'], note: 'Mill\nWeir' },
  });
});
