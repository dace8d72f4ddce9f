import { readableName, type DataClass } from '@bright-cellar/core';
import { isDrawn, playsAs } from '../shown.js';
import { newestFirst, shelf, type Contents, type Thing } from './define.js';

/** Photographs in the order of when they were taken, the newest first. */
export const photographs = shelf({
  id: 'photographs',
  rows(contents) {
    const things = contents.things('photographs');
    const same = new Map<string, number>();
    for (const { contents: one } of things) same.set(one, (same.get(one) ?? 0) + 1);
    return things
      .map((thing) => {
        const taken = contents.taken.get(thing.item);
        return {
          ...headOf(thing),
          ...{ at: taken?.at ?? thing.modified, isAtSaid: taken?.at !== undefined },
          ...{ camera: taken?.camera ?? '', place: taken?.place ?? null },
          album: albumOf(thing.path),
          isPicture: isDrawn(thing.format),
          alike: (same.get(thing.contents) ?? 1) - 1,
        };
      })
      .sort(newestFirst);
  },
  words: ({ path, camera }) => [path, camera],
  at: ({ at }) => at,
});

/** The folders of a path that say more than a year or a month. */
const albumOf = (path: string): string =>
  readableName(
    path
      .split('/')
      .slice(1, -1)
      .filter((folder) => !/^\d{2,4}$/.test(folder))
      .join('/'),
  );

const headOf = ({ item, path, bytes }: Thing) => ({ item, path: readableName(path), bytes });

/** Files that are played, the newest first. */
const played = (contents: Contents, dataClass: DataClass) =>
  contents
    .things(dataClass)
    .map((thing) => ({
      ...{ ...headOf(thing), at: thing.modified, plays: playsAs(thing.format) },
      isPicture: isDrawn(thing.format),
    }))
    .sort(newestFirst);

export const videos = shelf({
  id: 'videos',
  rows: (contents) => played(contents, 'videos'),
  words: ({ path }) => [path],
  at: ({ at }) => at,
});

export const voiceNotes = shelf({
  id: 'voice-notes',
  rows: (contents) => played(contents, 'voice-notes'),
  words: ({ path }) => [path],
  at: ({ at }) => at,
});

/** Songs by where they lie: a folder is an album. */
export const music = shelf({
  id: 'music',
  rows: (contents) => played(contents, 'music').sort((a, b) => (a.path < b.path ? -1 : 1)),
  words: ({ path }) => [path],
});
