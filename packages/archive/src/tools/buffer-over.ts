/** The same memory as a Buffer: what comes from another thread is a plain array of bytes. */
export function bufferOver(bytes: Uint8Array): Buffer {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}
