import type { Rack } from '@bright-cellar/contract';
import { formatBytes, rackKindNames } from '@bright-cellar/core';
import { label } from '../paper/index.js';

/** A sticker for a rack: a scan of it opens its page, also while the rack is away. */
export const rackLabel = ({ name, code, kind, note, capacity }: Rack): Promise<Buffer> =>
  label(`Label of ${name}`, {
    code,
    title: note === '' ? name : `${name}, ${note}`,
    more: `${rackKindNames[kind]}  ${formatBytes(capacity)}`,
  });
