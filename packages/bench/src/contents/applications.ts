import type { NewFile } from './generate.js';
import type { ContentsSize } from './sizes.js';
import { sentence, type Life } from './life.js';
import { thread } from './messages.js';
import type { Darkroom } from './photographs.js';
import { jsonFiles } from './records.js';

const CHATS = ['tansy', 'corbel'] as const;
const OTHERS = ['tide-table', 'bus-times'] as const;
const GAMES = ['pocket-garden', 'crossword'] as const;

/** Applications with their data: two chats with pictures, games with their scores, and small helpers. */
export function* applications(
  life: Life,
  { others, pictureChance }: ContentsSize,
  months: readonly string[],
  darkroom: Darkroom,
  seed: string,
): Generator<NewFile> {
  const json = jsonFiles(life);
  for (const name of [...CHATS, ...GAMES, ...OTHERS]) {
    yield json(`applications/${name}/settings.json`, { theme: life.chance.pick(['day', 'night']) });
  }
  for (const chat of CHATS) {
    yield json(`applications/${chat}/account.json`, { number: life.owner.phone });
    for (let t = 1; t <= Math.ceil(others / 12); t++) {
      const members = Array.from({ length: life.chance.happens(0.3) ? 5 : 1 }, () =>
        life.chance.pick(life.people),
      );
      const folder = `applications/${chat}/chats/${String(t).padStart(3, '0')}`;
      yield json(`${folder}/chat.json`, { members: members.map((m) => m.phone) });
      yield* thread(life, folder, members, months, darkroom, `${seed} ${chat}`, pictureChance);
    }
  }
  for (const game of GAMES) {
    let score = 0;
    for (let level = 1; level <= others; level++) {
      score += life.chance.whole(20, 900);
      yield json(`applications/${game}/levels/${String(level).padStart(4, '0')}.json`, {
        level,
        score,
        stars: life.chance.whole(1, 3),
      });
    }
    yield json(`applications/${game}/scores.json`, { best: score, player: life.owner.given });
  }
  for (const name of OTHERS) {
    for (let i = 1; i <= others; i++) {
      yield json(`applications/${name}/data/${String(i).padStart(4, '0')}.json`, {
        saved: sentence(life),
        with: life.chance.pick(life.people).email,
      });
    }
  }
}
