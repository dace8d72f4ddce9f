/** The same pieces; tells how long each is, once it was asked for. */
export async function* counted<T extends Uint8Array>(
  pieces: AsyncIterable<T> | Iterable<T>,
  count: (n: number) => void,
) {
  for await (const piece of pieces) {
    count(piece.length);
    yield piece;
  }
}
