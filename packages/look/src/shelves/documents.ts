import { readableName } from '@bright-cellar/core';
import { isDrawn, isText } from '../shown.js';
import { newestFirst, shelf } from './define.js';

/** Documents, the newest first. */
export const documents = shelf({
  id: 'documents',
  rows: (contents) =>
    contents
      .things('documents')
      .map(({ item, path, bytes, modified, format }) => ({
        ...{ item, path: readableName(path), bytes, at: modified },
        shows: isText(format) ? ('text' as const) : isDrawn(format) ? ('picture' as const) : null,
      }))
      .sort(newestFirst),
  words: ({ path }) => [path],
  at: ({ at }) => at,
});
