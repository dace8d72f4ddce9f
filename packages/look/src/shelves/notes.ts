import { mediaTypes } from '@bright-cellar/core/formats';
import { titleOf } from '@bright-cellar/core/look';
import { isoOf, listed, newestFirst, shelf } from './define.js';

/** What somebody wrote down, the newest first. */
export const notes = shelf({
  id: 'notes',
  rows(contents) {
    const all = contents.records('notes').flatMap(({ records, file }) => {
      const { modified, format } = contents.file(file);
      return records.notes.map((note) => ({
        ...{ title: titleOf(note), text: note.text, at: isoOf(modified), item: file },
        isMarkdown: format === mediaTypes.markdown,
      }));
    });
    return listed(
      all.sort(newestFirst),
      ({ text }) => [text],
      ({ at }) => at,
    );
  },
});
