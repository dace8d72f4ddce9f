/** All pieces as one: for contents that are small enough to be held whole. */
export async function inOne(pieces: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const all: Uint8Array[] = [];
  for await (const piece of pieces) all.push(piece);
  return Buffer.concat(all);
}
