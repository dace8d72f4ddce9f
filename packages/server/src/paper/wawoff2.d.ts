declare module 'wawoff2' {
  /** A font of WOFF 2.0 as the file that it was made from (ISO/IEC 14496-22). */
  export function decompress(woff2: Uint8Array): Promise<Uint8Array>;
}
