import { folderOf, linesOf, moment, type RecordFormat } from './define.js';

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
};
