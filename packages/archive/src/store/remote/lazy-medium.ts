import type { Medium } from './medium.js';

/** A medium whose code is loaded with the first thing that is asked of it: most processes and threads never need it. */
export function lazyMedium(load: () => Promise<Medium>): Medium {
  let loaded: Promise<Medium> | null = null;
  const medium = () => (loaded ??= load());
  return {
    room: async () => (await medium()).room(),
    list: async (prefix) => (await medium()).list(prefix),
    folders: async () => (await medium()).folders(),
    open: async (name) => (await medium()).open(name),
    put: async (name, contents, how) => (await medium()).put(name, contents, how),
    move: async (from, to) => (await medium()).move(from, to),
    remove: async (name) => (await medium()).remove(name),
    removeAll: async (prefix) => (await medium()).removeAll(prefix),
    overwrite: async (name) => (await medium()).overwrite(name),
    writtenAt: async (name) => (await medium()).writtenAt(name),
    tidy: async () => (await medium()).tidy(),
  };
}
