import { z } from 'zod';
import type { Message } from '../records/message.js';
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
  write({ messages }, path) {
    const lines = messages.map((message) => {
      const { at, from, text } = message;
      const attachment = besideOf(message, path);
      return JSON.stringify({
        at: at.toISOString(),
        from,
        text,
        ...(attachment && { attachment }),
      });
    });
    return new TextEncoder().encode(lines.map((line) => `${line}\n`).join(''));
  },
};

/** An attachment as it is named from the file's own folder; null where it lies elsewhere. */
function besideOf({ attachment }: Pick<Message, 'attachment'>, path: string): string | null {
  const folder = `${folderOf(path).folder}/`;
  const name = attachment?.startsWith(folder) ? attachment.slice(folder.length) : '';
  return name === '' ? null : name;
}
