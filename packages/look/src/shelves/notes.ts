import { mediaTypes } from '@bright-cellar/core/formats';
import { titleOf } from '@bright-cellar/core/look';
import { newestFirst, shelf } from './define.js';

/** What somebody wrote down, the newest first. */
export const notes = shelf({
  id: 'notes',
  rows: (contents) =>
    contents
      .records('notes')
      .flatMap(({ records, thing }) =>
        records.notes.map((note) => ({
          ...{ title: titleOf(note), text: note.text, at: thing.modified, item: thing.item },
          isMarkdown: thing.format === mediaTypes.markdown,
        })),
      )
      .sort(newestFirst),
  words: ({ text }) => [text],
  at: ({ at }) => at,
});
