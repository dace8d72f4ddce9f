import type { DataClass } from '../device/index.js';

/**
 * Where contents are cut into chunks. Chunks are what an archive stores once, however many items and
 * backups hold them.
 *
 * - *Pieces*: a cut every {@link CHUNK_MAX} bytes. For what never changes in place (photographs, videos,
 *   music, packed files) and for everything small: such a thing is equal as a whole or not at all.
 * - *Content*: cuts where the contents say so, so that what was inserted or removed moves no later cut.
 *   A gear hash with normalised chunking (Xia et al., “FastCDC”, USENIX ATC 2016), over a table that
 *   is derived from the archive's key: the lengths of chunks tell nobody else what is in them.
 */
export type Cutting = 'pieces' | 'content';

/** No chunk is longer. Fits the fast memory of a core, where reading, identifying and sealing it is quickest. */
export const CHUNK_MAX = 2 ** 20;

/**
 * Contents are cut at every multiple of this in any case: each such segment can be read, cut and
 * sealed by another thread, and continued after an interruption, without knowing the one before.
 */
export const SEGMENT_BYTES = 8 * 2 ** 20;

/** Below this, contents are one chunk or nearly: cutting them finer costs more than it finds. */
const CONTENT_FROM = 256 * 2 ** 10;

const mediaClasses: ReadonlySet<DataClass> = new Set([
  'photographs',
  'videos',
  'music',
  'voice-notes',
]);
const packedEndings =
  /\.(jpe?g|png|heic|webp|gif|tiff?|raw|dng|mp4|m4[av]|mov|mkv|webm|avi|3gp|mp3|aac|ogg|opus|flac|amr|zip|gz|xz|bz2|zst|7z|apk|pdf|docx|xlsx|pptx|age)$/i;

/** How an item's contents are cut. */
export function cuttingFor(item: { class: DataClass; path: string; bytes: number }): Cutting {
  if (item.bytes < CONTENT_FROM) return 'pieces';
  return mediaClasses.has(item.class) || packedEndings.test(item.path) ? 'pieces' : 'content';
}

/** Lengths of content-defined chunks, in bytes, and the masks that make the middle one likely. */
export interface CutSizes {
  readonly min: number;
  readonly middle: number;
  readonly max: number;
  /** Before `middle` a cut is made less likely, after it more: lengths gather around it. */
  readonly maskBefore: number;
  readonly maskAfter: number;
}

const topBits = (bits: number) => (2 ** bits - 1) << (32 - bits);

function sizes(min: number, middle: number, max: number): CutSizes {
  const bits = Math.log2(middle);
  return { min, middle, max, maskBefore: topBits(bits + 2), maskAfter: topBits(bits - 2) };
}

const fine = sizes(16 * 2 ** 10, 64 * 2 ** 10, 256 * 2 ** 10);
const coarse = sizes(128 * 2 ** 10, 512 * 2 ** 10, CHUNK_MAX);
/** From here on fewer, longer chunks: the list of a very large item's chunks stays small. */
const COARSE_FROM = 256 * 2 ** 20;

export function cutSizesFor(itemBytes: number): CutSizes {
  return itemBytes < COARSE_FROM ? fine : coarse;
}

/** Bytes of key material that {@link gearTable} takes. */
export const GEAR_BYTES = 1024;

/** The gear hash's table: 256 numbers of 32 bits, big-endian, out of secret random-looking bytes. */
export function gearTable(material: Uint8Array): Int32Array {
  if (material.length !== GEAR_BYTES) throw new RangeError('a gear table takes 1,024 bytes');
  const view = new DataView(material.buffer, material.byteOffset, GEAR_BYTES);
  return Int32Array.from({ length: 256 }, (_, i) => view.getInt32(i * 4));
}

/**
 * Where the chunk that begins at `from` ends, by its contents; `to` when they end before a cut.
 * The hash sees the 32 bytes before a position, whatever came before them.
 */
export function contentCut(
  bytes: Uint8Array,
  from: number,
  to: number,
  gear: Int32Array,
  { min, middle, max, maskBefore, maskAfter }: CutSizes,
): number {
  const end = Math.min(to, from + max);
  if (end - from <= min) return end;
  const turn = Math.min(end, from + middle);
  let hash = 0;
  let at = from + min - 32;
  for (const warm = from + min; at < warm; at++) {
    hash = ((hash << 1) + (gear[bytes[at] ?? 0] ?? 0)) | 0;
  }
  for (; at < turn; at++) {
    hash = ((hash << 1) + (gear[bytes[at] ?? 0] ?? 0)) | 0;
    if ((hash & maskBefore) === 0) return at + 1;
  }
  for (; at < end; at++) {
    hash = ((hash << 1) + (gear[bytes[at] ?? 0] ?? 0)) | 0;
    if ((hash & maskAfter) === 0) return at + 1;
  }
  return end;
}

/**
 * The ends of all chunks of one segment.
 * @param segment at most {@link SEGMENT_BYTES}; begins at a multiple of it in its item.
 */
export function cutSegment(
  segment: Uint8Array,
  cutting: Cutting,
  gear: Int32Array,
  cutSizes: CutSizes,
): number[] {
  const ends: number[] = [];
  for (let at = 0; at < segment.length;) {
    at =
      cutting === 'pieces'
        ? Math.min(segment.length, at + CHUNK_MAX)
        : contentCut(segment, at, segment.length, gear, cutSizes);
    ends.push(at);
  }
  return ends;
}
