import type { NewFile } from './generate.js';
import type { ContentsSize } from './sizes.js';
import type { Life, Person } from './life.js';
import type { Darkroom } from './photographs.js';
import { talk } from './talk.js';

/** One folder a thread, one file of JSON Lines a month, pictures beside. */
export function* messages(
  life: Life,
  { threads, pictureChance }: ContentsSize,
  months: readonly string[],
  darkroom: Darkroom,
  seed: string,
): Generator<NewFile> {
  for (let t = 1; t <= threads; t++) {
    const group = life.chance.happens(0.25);
    const members = Array.from({ length: group ? 4 : 1 }, () => life.chance.pick(life.people));
    const folder = `messages/thread-${String(t).padStart(3, '0')}`;
    yield* thread(life, folder, members, months, darkroom, seed, pictureChance);
    yield {
      path: `${folder}/thread.json`,
      contents: JSON.stringify({ group, members: members.map((m) => m.phone) }, null, 2),
      modified: life.from,
    };
  }
}

/** What was said in one thread, a file a month. Also how the chat applications keep theirs. */
export function* thread(
  life: Life,
  folder: string,
  members: readonly Person[],
  months: readonly string[],
  darkroom: Darkroom,
  seed: string,
  pictureChance: number,
): Generator<NewFile> {
  for (const month of months) {
    if (life.chance.happens(0.35)) continue;
    const lines: string[] = [];
    for (const [n, { at, by, text }] of talk(life, members, month).entries()) {
      const from = by?.phone ?? 'me';
      let attachment: string | null = null;
      if (life.chance.happens(pictureChance)) {
        attachment = `media/${month}-${String(n).padStart(3, '0')}.jpg`;
        yield {
          path: `${folder}/${attachment}`,
          contents: darkroom.photograph(
            `${seed} ${folder} ${attachment}`,
            at,
            life.chance.pick(life.places),
            640,
            480,
          ),
          modified: at,
        };
      }
      lines.push(JSON.stringify({ at: at.toISOString(), from, text, attachment }));
    }
    yield {
      path: `${folder}/${month}.jsonl`,
      contents: `${lines.join('\n')}\n`,
      modified: new Date(`${month}-28T22:00:00Z`),
    };
  }
}
