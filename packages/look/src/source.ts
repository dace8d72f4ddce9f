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
  /** Where its bytes are, as its source knows it: the same for all that have the very same contents. */
  contents: string;
}

/** A file of a backup, as it is held: in little memory, for there are very many. */
export interface Held {
  class: DataClass;
  path: string;
  bytes: number;
  /** UTC, ms since 1970. */
  modified: number;
  /** A media type; null where the device did not say. */
  format: string | null;
  contents: string;
}

/** From where to where in an item, in bytes; `to` is not read any more. */
export interface ByteRange {
  from: number;
  to: number;
}

/** A backup that can be read. */
export interface Source {
  /** When it was taken: ISO 8601, UTC. */
  takenAt: string;
  /** Everything in it, in its order. Fails where its list is damaged. */
  items(): AsyncIterable<SourceItem>;
  /** An item's bytes. Fails where they are damaged. */
  read(item: Pick<SourceItem, 'bytes' | 'contents'>, range?: ByteRange): AsyncIterable<Uint8Array>;
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
