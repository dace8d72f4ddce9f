import { createRequire } from 'node:module';

/** Argon2 (RFC 9106). Native code in a CommonJS package: by `import`, each process would read it through a parser first. */
export const { hash, verify } = createRequire(import.meta.url)(
  '@node-rs/argon2',
) as typeof import('@node-rs/argon2');
