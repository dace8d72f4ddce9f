import type { NewFile } from './generate.js';
import { health } from './health.js';
import { moment, paragraphs, sentence, type Life } from './life.js';

/** Makes files of JSON with a moment of this life. */
export const jsonFiles =
  (life: Life) =>
  (path: string, value: unknown): NewFile => ({
    path,
    contents: `${JSON.stringify(value, null, 2)}\n`,
    modified: moment(life),
  });

/** Settings, health and the rest: records in JSON and plain text. */
export function* records(life: Life, others: number): Generator<NewFile> {
  const json = jsonFiles(life);
  yield* health(life);
  for (let i = 1; i <= others; i++) {
    yield json(`saved-passwords/site-${i}.json`, {
      site: `site-${i}.example.com`,
      user: life.owner.email,
      password: life.chance.bytes(9).toString('base64url'),
    });
    yield json(`settings/${String(i).padStart(3, '0')}.json`, { value: life.chance.whole(0, 100) });
    yield {
      path: `documents/letter-${String(i).padStart(3, '0')}.txt`,
      contents: `${paragraphs(life, life.chance.whole(3, 30))}\n`,
      modified: moment(life),
    };
  }
  for (let i = 1; i <= Math.ceil(others / 4); i++) {
    yield json(`web-history/${i}.json`, {
      visited: Array.from({ length: 80 }, () => ({
        at: moment(life).toISOString(),
        page: `https://www.example.com/${life.chance.bytes(4).toString('hex')}`,
      })),
    });
  }
  yield json(
    'web-history/bookmarks.json',
    Array.from({ length: 12 }, (_, i) => ({
      name: sentence(life),
      page: `https://www.example.com/${i}`,
    })),
  );
  yield json('settings/home-screen.json', {
    pages: [
      ['messages', 'calendar', 'photographs', 'tansy'],
      ['corbel', 'pocket-garden', 'crossword', 'notes'],
    ],
    dock: ['calls', 'messages', 'web', 'music'],
  });
  yield json('settings/networks.json', [
    { name: 'Lantern steps 4', key: life.chance.bytes(9).toString('base64url') },
    { name: 'Ferry guest', key: null },
  ]);
  yield json('alarms/alarms.json', [
    { at: '06:40', days: 'weekdays', label: 'Ferry' },
    { at: '08:30', days: 'Sunday' },
    { at: '21:15', days: '', label: 'Bread out of the oven' },
  ]);
}
