/** No zstd block gives more bytes (RFC 8878, section 3.1.1.2.4). */
const BLOCK_MAX = 128 * 2 ** 10;
const MAGIC = [0x28, 0xb5, 0x2f, 0xfd];

/**
 * How many blocks a zstd frame (RFC 8878) has: by it one knows how much it can give at the most before it is decompressed.
 * @returns null unless the bytes are exactly one whole frame
 */
export function zstdBlocksIn(frame: Uint8Array): number | null {
  if (frame.length < 6 || MAGIC.some((byte, n) => frame[n] !== byte)) return null;
  const descriptor = frame[4] ?? 0;
  const isSingleSegment = (descriptor & 0x20) !== 0;
  const dictionaryBytes = [0, 1, 2, 4][descriptor & 3] ?? 0;
  const contentSizeBytes = [isSingleSegment ? 1 : 0, 2, 4, 8][descriptor >> 6] ?? 0;
  let at = 5 + (isSingleSegment ? 0 : 1) + dictionaryBytes + contentSizeBytes;
  for (let blocks = 1; ; blocks++) {
    const [low, middle, high] = frame.subarray(at, at + 3);
    if (low === undefined || middle === undefined || high === undefined) return null;
    const head = low | (middle << 8) | (high << 16);
    const type = (head >> 1) & 3;
    const size = head >> 3;
    if (size > BLOCK_MAX || type === 3) return null;
    const repeated = 1;
    at += 3 + (type === repeated ? 1 : size);
    const isLast = (head & 1) === 1;
    // Nothing after the frame but its own checksum.
    if (isLast) return at + ((descriptor & 4) !== 0 ? 4 : 0) === frame.length ? blocks : null;
  }
}
