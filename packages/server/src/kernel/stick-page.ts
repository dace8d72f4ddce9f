import { fileURLToPath } from 'node:url';

/** The page that opens a stick, as one file, as it was built. */
export const STICK_PAGE_BUILT = fileURLToPath(
  new URL('../../../web/dist/stick/stick.html', import.meta.url),
);
