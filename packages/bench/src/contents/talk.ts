import { sentence, type Life, type Person } from './life.js';

/** Something that somebody says, so many minutes after what was said before it. */
interface Turn {
  /** The one who began, or the other. */
  who: 0 | 1;
  after: [least: number, most: number];
  words: readonly string[];
}

/** What people talk about over hours and days: a question, an answer, a plan, and what became of it. `{…}` is filled in. */
const topics: readonly (readonly Turn[])[] = [
  [
    {
      who: 0,
      after: [0, 0],
      words: ['Shall we go to {place} on {day}?', 'Are you free on {day}? I thought of {place}.'],
    },
    {
      who: 1,
      after: [3, 240],
      words: ['Yes! What time?', 'I would like that. When?', 'If it stays dry. At what time?'],
    },
    { who: 0, after: [1, 30], words: ['At {hour}?', '{hour}, before it gets dark.'] },
    {
      who: 1,
      after: [1, 90],
      words: ['See you there.', '{hour} is fine. I bring the flask 🫖', 'Good. I take the bus.'],
    },
    {
      who: 1,
      after: [2000, 6000],
      words: [
        'That was a lovely afternoon. Thank you!',
        'My shoes are still wet 😄 but it was worth it.',
      ],
    },
  ],
  [
    {
      who: 0,
      after: [0, 0],
      words: ['Do you still have my {thing}?', 'Have you seen the {thing} anywhere?'],
    },
    {
      who: 1,
      after: [10, 600],
      words: ['It is in the shed. Come by any time.', 'I gave it to {person} last week, sorry.'],
    },
    {
      who: 0,
      after: [1, 200],
      words: ['No hurry.', 'I pick it up on {day}.', 'Ah. I will ask there.'],
    },
  ],
  [
    {
      who: 0,
      after: [0, 0],
      words: [
        'How did it go at the dentist’s?',
        'Any news about the flat?',
        'Did the interview go well?',
      ],
    },
    {
      who: 1,
      after: [20, 700],
      words: [
        'Better than I feared.',
        'They want to call on {day}.',
        'Long story. I tell you when we meet.',
      ],
    },
    { who: 0, after: [1, 60], words: ['I keep my fingers crossed 🤞', 'Call me this evening?'] },
    { who: 1, after: [1, 120], words: ['👍', 'I will. {number} is still yours?', 'After eight.'] },
  ],
  [
    {
      who: 0,
      after: [0, 0],
      words: [
        'Look at this: https://www.example.com/walks/{slug}',
        'Here is the recipe: https://www.example.org/{slug}',
      ],
    },
    {
      who: 1,
      after: [5, 900],
      words: [
        'We did that one with {person}, in the rain.',
        'Saved it. Thank you!',
        'Does it work with oat flour?',
      ],
    },
    {
      who: 0,
      after: [2, 300],
      words: ['Ha, yes, I remember.', 'It should. Tell me how it turns out.'],
    },
  ],
  [
    {
      who: 0,
      after: [0, 0],
      words: [
        'The ferry is late again, I will be there at {hour}.',
        'Train stands still. Start without me.',
      ],
    },
    { who: 1, after: [1, 20], words: ['No problem, I have a book.', 'We keep a plate for you.'] },
    { who: 0, after: [15, 90], words: ['On my way now.', 'Five minutes!'] },
  ],
  [
    {
      who: 0,
      after: [0, 0],
      words: ['Happy birthday, {name}! 🎂', 'All the best for today, {name}.'],
    },
    {
      who: 1,
      after: [30, 900],
      words: ['Thank you!! Cake on {day}, you are invited.', 'How kind. See you at {place}?'],
    },
  ],
];

/** What people say who talk in another language or script; a question, and its answer. */
const elsewhere: Record<string, readonly (readonly [string, string])[]> = {
  fr: [
    ['Tu viens dîner samedi ?', 'Avec plaisir, j’apporte le dessert.'],
    ['Où est la clé de la cave ?', 'Sous le pot bleu, comme d’habitude.'],
  ],
  de: [
    ['Kommst du am Sonntag mit ans Wasser?', 'Gern, wenn es nicht stürmt. Straße oder Bahn?'],
    ['Hast du die Größe für die Jacke?', 'Vierzig, glaube ich. Danke schön!'],
  ],
  el: [['Πού είσαι;', 'Στο λιμάνι, έρχομαι σε δέκα λεπτά.']],
  uk: [['Коли ти приїдеш?', 'У п’ятницю ввечері, як завжди.']],
  ar: [['متى نلتقي؟', 'غداً بعد الظهر إن شاء الله']],
  hi: [['तुम कब आओगे?', 'शाम को, सात बजे।']],
  zh: [['你到家了吗？', '刚到，谢谢！']],
};
const languages = Object.keys(elsewhere);

const THINGS = ['blue ladder', 'bread tin', 'bicycle pump', 'tent', 'grey umbrella', 'big kettle'];
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const MINUTE = 60_000;

export interface Spoken {
  at: Date;
  /** Null for the device’s owner. */
  by: Person | null;
  text: string;
}

/** What is said in a conversation in one month: some talks of several turns, and what people say in passing. */
export function talk(life: Life, members: readonly Person[], month: string): Spoken[] {
  const { chance } = life;
  const spoken: Spoken[] = [];
  const begin = () =>
    new Date(Date.parse(`${month}-01T07:00:00Z`) + chance.whole(0, 26 * 1440) * MINUTE);
  const end = Date.parse(`${month}-28T21:59:00Z`);
  for (let talks = chance.whole(1, 8); talks > 0; talks--) {
    const other = chance.pick(members);
    const sides = chance.happens(0.5) ? [null, other] : [other, null];
    let at = begin().getTime();
    if (chance.happens(0.12)) {
      const pairs = elsewhere[languageOf(other)] ?? [];
      if (pairs.length > 0) {
        const [question, answer] = chance.pick(pairs);
        spoken.push({ at: new Date(at), by: sides[0] ?? null, text: question });
        at += chance.whole(1, 300) * MINUTE;
        spoken.push({ at: new Date(Math.min(at, end)), by: sides[1] ?? null, text: answer });
        continue;
      }
    }
    const filled = fillings(life, other);
    for (const { who, after, words } of chance.pick(topics)) {
      at = Math.min(at + chance.whole(...after) * MINUTE, end);
      const text = chance
        .pick(words)
        .replace(/\{(\w+)\}/g, (_, name: string) => filled[name] ?? '');
      spoken.push({ at: new Date(at), by: sides[who] ?? null, text });
    }
  }
  for (let more = chance.whole(2, 30); more > 0; more--) {
    const by = chance.happens(0.5) ? null : chance.pick(members);
    spoken.push({ at: begin(), by, text: sentence(life) });
  }
  return spoken.sort((a, b) => a.at.getTime() - b.at.getTime());
}

/** One of ten talks in another language, always the same one. */
function languageOf({ phone }: Person): string {
  const number = Number(phone.slice(-3));
  return number % 4 === 1 ? (languages[number % languages.length] ?? '') : '';
}

function fillings(life: Life, other: Person): Record<string, string> {
  const { chance } = life;
  return {
    place: chance.pick(life.places).name,
    day: chance.pick(DAYS),
    hour: `${chance.whole(1, 8)}:${chance.pick(['00', '15', '30', '45'])}`,
    thing: chance.pick(THINGS),
    person: chance.pick(life.people).given,
    name: other.given,
    number: life.owner.phone,
    slug: chance.bytes(3).toString('hex'),
  };
}
