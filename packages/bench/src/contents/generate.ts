import { mkdir, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { applications } from './applications.js';
import { databases } from './databases.js';
import { hostile } from './hostile.js';
import { makeLife, moment, monthsOf, type Life } from './life.js';
import { messages } from './messages.js';
import { mediaTypes } from '@bright-cellar/core/formats';
import { calendar, calls, contacts, notes } from './organiser.js';
import { tasks } from './tasks.js';
import { Darkroom } from './photographs.js';
import { papers } from './papers.js';
import { records } from './records.js';
import type { ContentsSize } from './sizes.js';
import { music, voiceNotes } from './sound.js';

export interface NewFile {
  path: string;
  /** A promise where drawing takes a while, so that several can be drawn at once. */
  contents: string | Uint8Array | Promise<Uint8Array>;
  modified: Date;
}

/**
 * Fills a folder with one made-up person's files, the same for the same seed. The folder appears only
 * when it is complete.
 */
export async function generateContents(
  folder: string,
  seed: string,
  device: { model: string; kind: 'phone' | 'tablet' | 'handset' },
  size: ContentsSize,
): Promise<void> {
  const unfinished = `${folder}.unfinished`;
  await rm(unfinished, { recursive: true, force: true });
  const life = makeLife(seed, size.people, size.from);
  const writing = new Set<Promise<void>>();
  const files =
    device.kind === 'handset' ? databases(life, size) : allFiles(life, seed, device.model, size);
  for (const file of files) {
    const written = write(join(unfinished, file.path), file).finally(() => writing.delete(written));
    writing.add(written);
    if (writing.size >= AT_ONCE) await Promise.race(writing);
  }
  await Promise.all(writing);
  await rename(unfinished, folder);
}

const AT_ONCE = 4;

async function write(path: string, { contents, modified }: NewFile): Promise<void> {
  await mkdir(dirname(path), { recursive: true });
  await writeFile(path, await contents);
  await utimes(path, modified, modified);
}

function* allFiles(
  life: Life,
  seed: string,
  model: string,
  size: ContentsSize,
): Generator<NewFile> {
  const darkroom = new Darkroom(life, model);
  const months = monthsOf(life);
  yield* contacts(life, darkroom);
  yield* calendar(life, size.others * 3);
  yield* notes(life, size.others);
  yield* calls(life, months);
  yield* messages(life, size, months, darkroom, seed);
  yield* voiceNotes(life, Math.ceil(size.others / 4));
  if (size.withHostile) yield* hostile(life);
  yield* music(life, Math.ceil(size.others / 12), size.songSeconds);
  yield* records(life, size.others);
  yield* papers(life, Math.ceil(size.others / 20) + 1);
  yield* applications(life, size, months, darkroom, seed);
  yield* photographs(life, size, darkroom, seed);
  yield* videos(life, size, darkroom, seed);
  yield* tasks(life, size.others, mediaTypes.taskList, (n) => `tasks/${n}.ics`);
}

function* photographs(
  life: Life,
  size: ContentsSize,
  darkroom: Darkroom,
  seed: string,
): Generator<NewFile> {
  const width = size.photographWidth;
  for (let i = 1; i <= size.photographs; i++) {
    const at = moment(life);
    const stamp = at.toISOString();
    const name = `${stamp.slice(0, 10)}_${stamp.slice(11, 19).replaceAll(':', '')}_${i}.jpg`;
    yield {
      path: `photographs/${stamp.slice(0, 4)}/${stamp.slice(5, 7)}/${name}`,
      contents: darkroom.photograph(
        `${seed} photograph ${i}`,
        at,
        life.chance.pick(life.places),
        width,
        Math.round(width * 0.75),
      ),
      modified: at,
    };
  }
}

/** Each takes seconds to be made. */
const VIDEOS_MOST = 60;

/** A few moving pictures: one scene, seen from further and further right. */
function* videos(
  life: Life,
  size: ContentsSize,
  darkroom: Darkroom,
  seed: string,
): Generator<NewFile> {
  for (let i = 1; i <= Math.min(VIDEOS_MOST, Math.ceil(size.photographs / 16)); i++) {
    const at = moment(life);
    yield {
      path: `videos/${at.toISOString().slice(0, 4)}/clip-${String(i).padStart(3, '0')}.webm`,
      contents: darkroom.clip(
        `${seed} video ${i}`,
        at,
        size.clipFrames,
        Math.max(480, Math.round(size.photographWidth / 3)),
      ),
      modified: at,
    };
  }
}
