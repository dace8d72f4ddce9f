/** What of a device goes to a browser, and as what. Anything else stays a name and a size. */

/** Drawn anew by us: what a device says is a picture goes to no browser as it is. */
const drawn: ReadonlySet<string> = new Set([
  ...['image/jpeg', 'image/png', 'image/webp', 'image/gif', 'image/tiff', 'image/avif'],
]);
export const isDrawn = (format: string | null): boolean => drawn.has(format ?? '');

/** Sounds and videos by what they are told to be: a browser plays them, and does nothing else with them. */
const played: Record<string, string> = {
  'video/webm': 'video/webm',
  'video/mp4': 'video/mp4',
  'audio/webm': 'audio/webm',
  'audio/ogg': 'audio/ogg',
  'audio/mpeg': 'audio/mpeg',
  'audio/mp4': 'audio/mp4',
  'audio/flac': 'audio/flac',
  'audio/x-flac': 'audio/flac',
  'audio/wav': 'audio/wav',
  'audio/x-wav': 'audio/wav',
  'audio/wave': 'audio/wav',
};
/** Null for what no browser plays. */
export const playsAs = (format: string | null): string | null => played[format ?? ''] ?? null;

/** Shown as the letters that it is. */
export const isText = (format: string | null): boolean =>
  format !== null && (format.startsWith('text/') || format === 'application/json');
