import { mustBeAsked } from '../../disk/errors.js';
import type { StoredFile } from '../store.js';
import type { Medium } from './medium.js';

/** A medium that says in the product's own words where it was not reached. @throws Failure `rack-not-here` instead of `ENOTCONN` */
export function reached(medium: Medium): Medium {
  return {
    room: () => answered(() => medium.room()),
    list: (prefix) => answered(() => medium.list(prefix)),
    folders: () => answered(() => medium.folders()),
    open: async (name) => reachedFile(await answered(() => medium.open(name))),
    put: (name, contents, how) => answered(() => medium.put(name, contents, how)),
    move: (from, to) => answered(() => medium.move(from, to)),
    remove: (name) => answered(() => medium.remove(name)),
    removeAll: (prefix) => answered(() => medium.removeAll(prefix)),
    overwrite: (name) => answered(() => medium.overwrite(name)),
    writtenAt: (name) => answered(() => medium.writtenAt(name)),
    tidy: () => answered(() => medium.tidy()),
  };
}

const reachedFile = (file: StoredFile): StoredFile => ({
  size: file.size,
  read: (into, from) => answered(async () => file.read(into, from)),
  close: () => file.close(),
});

async function answered<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    mustBeAsked(error);
    throw error;
  }
}
