import { z } from 'zod';
import { folderOf, linesOf, moment, utf8, type RecordFormat } from './define.js';

const lineSchema = z.object({
  at: z.string(),
  from: z.string(),
  text: z.string(),
  attachment: z.string().nullish(),
});

/** A conversation, one JSON object a line (RFC 8259, UTF-8). Its folder is its name; pictures lie beside it. */
export const thread: RecordFormat<'messages'> = {
  mediaType: 'application/vnd.bright-cellar.thread+jsonl',
  kind: 'messages',
  parse(contents, path) {
    const { folder, name } = folderOf(path);
    return {
      kind: 'messages',
      messages: linesOf(utf8(contents)).map((line) => {
        const { at, from, text, attachment } = lineSchema.parse(JSON.parse(line));
        return {
          thread: name,
          at: moment(at),
          from,
          text,
          attachment: attachment ? `${folder}/${attachment}` : null,
        };
      }),
    };
  },
};
