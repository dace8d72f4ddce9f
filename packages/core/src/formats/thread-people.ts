import { z } from 'zod';
import { folderOf, utf8, type RecordFormat } from './define.js';

const fileSchema = z.object({ group: z.boolean(), members: z.array(z.string()).max(10_000) });

/** Who is in the conversation of its folder: one JSON object (RFC 8259, UTF-8). */
export const threadPeople: RecordFormat<'threads'> = {
  mediaType: 'application/vnd.bright-cellar.thread-people+json',
  kind: 'threads',
  parse(contents, path) {
    const { group, members } = fileSchema.parse(JSON.parse(utf8(contents)));
    const { name } = folderOf(path);
    return { kind: 'threads', threads: [{ name, isGroup: group, members }] };
  },
  write({ threads }) {
    const { isGroup, members } = threads[0] ?? { isGroup: false, members: [] };
    return new TextEncoder().encode(`${JSON.stringify({ group: isGroup, members })}\n`);
  },
};
