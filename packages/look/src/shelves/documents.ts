import { readableName } from '@bright-cellar/core';
import { showsAs } from '../shown.js';
import { filed, isoOf, shelf } from './define.js';

/** Documents, the newest first. */
export const documents = shelf({
  id: 'documents',
  rows: (contents) =>
    filed(contents, 'documents', {
      time: (file) => contents.file(file).modified,
      words: (file) => [readableName(contents.file(file).path)],
      row: (item) => {
        const { path, bytes, modified, format } = contents.file(item);
        return {
          ...{ item, path: readableName(path), bytes, at: isoOf(modified) },
          shows: showsAs(format),
        };
      },
    }),
});
