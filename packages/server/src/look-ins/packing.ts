import { sealAge } from '@bright-cellar/archive';
import type { Packing } from '@bright-cellar/look';
import { zipStream } from '../kernel/zip-stream.js';

/** How packages are made at the counter. */
export const packing: Packing = {
  zip: (files) =>
    zipStream((put) => {
      for (const { path, modified, isText, open } of files) {
        put(path, { ...(modified ? { mtime: modified } : {}), compress: isText }, open);
      }
    }),
  seal: (bytes, password) => sealAge(bytes, { password }),
};
