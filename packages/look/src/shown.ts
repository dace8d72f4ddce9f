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

/** How a document is shown; null for what stays a name and a size. */
export const showsAs = (format: string | null): 'text' | 'picture' | 'pages' | null =>
  isText(format) ? 'text' : isDrawn(format) ? 'picture' : format === PAGES ? 'pages' : null;

const PAGES = 'application/pdf';

/** What goes to a browser as it is, and as what; pages only as bytes, to be drawn by us. Null for what does not go there. */
export const goesAs = (format: string | null): string | null =>
  format === PAGES ? 'application/octet-stream' : playsAs(format);
