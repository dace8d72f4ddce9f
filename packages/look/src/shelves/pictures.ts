import { readableName, type DataClass } from '@bright-cellar/core';
import { isDrawn, playsAs } from '../shown.js';
import { filed, isoOf, shelf, type Contents, type FileRows } from './define.js';

/** Photographs in the order of when they were taken, the newest first. */
export const photographs = shelf({
  id: 'photographs',
  rows(contents) {
    const same = new Map<string, number>();
    for (const file of contents.files('photographs')) {
      const { contents: one } = contents.file(file);
      same.set(one, (same.get(one) ?? 0) + 1);
    }
    // Most are there once: nothing is held of these.
    for (const [one, times] of same) if (times === 1) same.delete(one);
    const time = (file: number) => {
      const said = contents.taken.get(file)?.at;
      return said === undefined ? contents.file(file).modified : Date.parse(said);
    };
    return filed(contents, 'photographs', {
      time,
      words: (file) => [
        readableName(contents.file(file).path),
        contents.taken.get(file)?.camera ?? '',
      ],
      row: (file) => {
        const { path, format, contents: one } = contents.file(file);
        const taken = contents.taken.get(file);
        return {
          ...headOf(contents, file),
          ...{ at: isoOf(time(file)), isAtSaid: taken?.at !== undefined },
          ...{ camera: taken?.camera ?? '', place: taken?.place ?? null },
          album: albumOf(path),
          isPicture: isDrawn(format),
          alike: (same.get(one) ?? 1) - 1,
        };
      },
    });
  },
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

const headOf = (contents: Contents, item: number) => {
  const { path, bytes } = contents.file(item);
  return { item, path: readableName(path), bytes };
};

/** Files that are played. */
const played = (contents: Contents, dataClass: DataClass, order?: FileRows<unknown>['order']) => {
  const row = (file: number) => {
    const { modified, format } = contents.file(file);
    return {
      ...{ ...headOf(contents, file), at: isoOf(modified), plays: playsAs(format) },
      isPicture: isDrawn(format),
    };
  };
  const time = (file: number) => contents.file(file).modified;
  const words = (file: number) => [readableName(contents.file(file).path)];
  return filed(contents, dataClass, { time, row, words, ...(order && { order }) });
};

export const videos = shelf({
  id: 'videos',
  rows: (contents) => played(contents, 'videos'),
});

export const voiceNotes = shelf({
  id: 'voice-notes',
  rows: (contents) => played(contents, 'voice-notes'),
});

/** Songs by where they lie: a folder is an album. */
export const music = shelf({
  id: 'music',
  rows: (contents) =>
    played(contents, 'music', (a, b) => (contents.file(a).path < contents.file(b).path ? -1 : 1)),
});
