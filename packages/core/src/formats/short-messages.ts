import { countLosses, folderOf, linesOf, moment, type RecordFormat } from './define.js';
import { notLatin } from './notes.js';

/** Texts of a keyboard handset: moment, sender and words, with tabs between, in ISO 8859-1. */
export const shortMessages: RecordFormat<'messages'> = {
  mediaType: 'text/vnd.bright-cellar.short-messages',
  kind: 'messages',
  parse(contents, path) {
    const { name } = folderOf(path);
    return {
      kind: 'messages',
      messages: linesOf(new TextDecoder('latin1').decode(contents)).map((line) => {
        const [at = '', from = '', ...words] = line.split('\t');
        return { thread: name, at: moment(at), from, text: words.join('\t'), attachment: null };
      }),
    };
  },
  write({ messages }) {
    const lines = messages.map(({ at, from, text }) =>
      [at.toISOString(), from.replaceAll(/[\t\r\n]/g, ' '), text.replaceAll(/[\r\n]+/g, ' ')].join(
        '\t',
      ),
    );
    const known = lines.map((line) => `${line.replaceAll(notLatin, '?')}\n`).join('');
    return Uint8Array.from(known, (letter) => letter.charCodeAt(0));
  },
  losses: ({ messages }, path) =>
    countLosses(messages, {
      attachment: ({ attachment }) => attachment !== null,
      conversation: ({ thread }) => thread !== folderOf(path).name,
      letters: ({ from, text }) => (from + text).search(notLatin) >= 0,
      'line-breaks': ({ from, text }) => /[\t\r\n]/.test(from) || /[\r\n]/.test(text),
    }),
};
