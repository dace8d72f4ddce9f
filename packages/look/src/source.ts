import type { DataClass } from '@bright-cellar/core';

/** An item of a backup, as whoever reads it needs it. */
export interface SourceItem {
  class: DataClass;
  kind: 'file' | 'folder' | 'link';
  path: string;
  bytes: number;
  /** ISO 8601, UTC. */
  modified: string;
  /** A media type; absent where the device did not say. */
  format?: string | undefined;
}

/** From where to where in an item, in bytes; `to` is not read any more. */
export interface ByteRange {
  from: number;
  to: number;
}

/** A backup that can be read. */
export interface Source<Item extends SourceItem> {
  /** When it was taken: ISO 8601, UTC. */
  takenAt: string;
  /** Everything in it, in its order. Fails where its list is damaged. */
  items(): AsyncIterable<Item>;
  /** An item's bytes. Fails where they are damaged. */
  read(item: Item, range?: ByteRange): AsyncIterable<Uint8Array>;
  /** The same for all that have the very same contents. */
  contentsOf(item: Item): string;
}

/** All bytes of a stream as one. */
export async function gathered(pieces: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  const all: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of pieces) {
    all.push(piece);
    bytes += piece.length;
  }
  const one = new Uint8Array(bytes);
  let at = 0;
  for (const piece of all) {
    one.set(piece, at);
    at += piece.length;
  }
  return one;
}
