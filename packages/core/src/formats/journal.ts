import { titleOf, type Note } from '../records/note.js';
import {
  addWords,
  calendarOf,
  entriesOf,
  newEntry,
  wordsOf,
  type Entry,
} from './calendar-entries.js';
import type { RecordFormat } from './define.js';

/** Notes in a calendar (RFC 5545, VJOURNAL): each with its first line as what it is called. */
export const journal: RecordFormat<'notes'> = {
  mediaType: 'text/vnd.bright-cellar.journal',
  kind: 'notes',
  parse: (contents) => ({ kind: 'notes', notes: entriesOf(contents, 'vjournal').map(noteOf) }),
  write: ({ notes }) => writeJournal(notes),
};

/** @param uids what tells each from all others, where somebody wants to know */
export function writeJournal(notes: readonly Note[], uids: readonly string[] = []): Uint8Array {
  const components = notes.map(({ text }, at) => {
    const component = newEntry('vjournal', uids[at] ?? '');
    addWords(component, 'summary', titleOf({ text }));
    addWords(component, 'description', text);
    return component;
  });
  return calendarOf(components, []);
}

/** Others do not say again at its head what it is called. */
function noteOf(entry: Entry): Note {
  const [title, text] = [wordsOf(entry, 'summary'), wordsOf(entry, 'description')];
  if (text === '') return { text: title };
  return { text: title === '' || title === titleOf({ text }) ? text : `${title}\n\n${text}` };
}
