import { createRequire } from 'node:module';

/**
 * What runs as the machine's own code. These packages are CommonJS: brought in by `import`, each process and each thread
 * reads them through a parser first, which takes more than all else that a thread needs to begin.
 */
const load = createRequire(import.meta.url);

export const { Blake2BHasher, Blake3Hasher } = load(
  '@napi-rs/blake-hash',
) as typeof import('@napi-rs/blake-hash');
export const { Decoder, Encoder } = load(
  '@toondepauw/node-zstd',
) as typeof import('@toondepauw/node-zstd');
