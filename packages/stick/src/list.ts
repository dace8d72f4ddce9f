import { backedUpDeviceSchema, dataClassIds, Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { ID_LETTERS } from './places.js';

/** Lines of a backup's list: docs/archive-format.md, “Backups”. What is not needed to read it is passed over. */
const chunks = z.string().regex(/^(?:[0-9a-f]{64})*$/);
const count = z.int().min(0);
const line = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('backup'),
    format: z.literal(1),
    archive: z.string(),
    takenAt: z.iso.datetime(),
    device: backedUpDeviceSchema.nullable(),
  }),
  z.object({
    type: z.literal('item'),
    class: z.enum(dataClassIds),
    kind: z.enum(['file', 'folder', 'link']),
    path: z.string().min(1),
    bytes: count,
    modified: z.iso.datetime(),
    format: z.string().max(121).optional(),
    from: count,
    chunks,
  }),
  z.object({ type: z.literal('part'), path: z.string(), from: count, to: count, chunks }),
  z.object({ type: z.literal('failed') }),
  z.object({ type: z.literal('end'), items: count, failed: count }),
]);
type Line = z.output<typeof line>;

export type StickItem = Omit<Extract<Line, { type: 'item' }>, 'type' | 'from' | 'chunks'> & {
  /** The ids of its chunks, a letter a byte, one after the other. */
  contents: string;
};
export type Header = Extract<Line, { type: 'backup' }>;

/** The lines that frames hold. @throws Failure `archive-damaged` */
export async function* linesOf(frames: AsyncIterable<Uint8Array>): AsyncGenerator<Line> {
  const text = new TextDecoder('utf-8', { fatal: true });
  for await (const frame of frames) {
    let lines: Line[];
    try {
      const all = text.decode(frame).split('\n');
      if (all.pop() !== '') throw new Failure('archive-damaged');
      lines = all.map((one) => line.parse(JSON.parse(one)));
    } catch (cause) {
      throw new Failure('archive-damaged', {}, { cause });
    }
    yield* lines;
  }
}

/** What a backup holds; ends only after an end that agrees with what came. @throws Failure `archive-damaged` */
export async function* itemsOf(frames: AsyncIterable<Uint8Array>): AsyncGenerator<StickItem> {
  let begun = null as { path: string; to: number; chunks: string } | null;
  const seen = { items: 0, failed: 0 };
  let isEnded = false;
  for await (const one of linesOf(frames)) {
    if (isEnded) throw new Failure('archive-damaged');
    if (one.type === 'part') {
      if (one.from !== 0 && (begun?.path !== one.path || begun.to !== one.from))
        throw new Failure('archive-damaged');
      const before: string = one.from === 0 ? '' : (begun?.chunks ?? '');
      begun = { path: one.path, to: one.to, chunks: before + lettersOf(one.chunks) };
    } else if (one.type === 'item') {
      const { type: _, from, chunks: own, ...item } = one;
      if (from !== 0 && (begun?.path !== item.path || begun.to !== from))
        throw new Failure('archive-damaged');
      const before = from === 0 ? '' : (begun?.chunks ?? '');
      seen.items += 1;
      yield { ...item, contents: before + lettersOf(own) };
    } else if (one.type === 'failed') {
      seen.failed += 1;
    } else if (one.type === 'end') {
      isEnded = one.items === seen.items && one.failed === seen.failed;
      if (!isEnded) throw new Failure('archive-damaged');
    }
  }
  if (!isEnded) throw new Failure('archive-damaged');
}

/** Half as long as hexadecimal. */
const lettersOf = (hexadecimal: string): string =>
  hexadecimal.replace(/../g, (two) => String.fromCharCode(Number.parseInt(two, 16)));

/** The ids of an item's chunks. */
export function* chunksOf({ contents: all }: Pick<StickItem, 'contents'>): Generator<string> {
  for (let at = 0; at < all.length; at += ID_LETTERS) yield all.slice(at, at + ID_LETTERS);
}
