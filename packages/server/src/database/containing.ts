/** A pattern for SQL's `like` that finds a text anywhere, whatever signs it has. */
export const containing = (text: string): string =>
  `%${text
    .trim()
    .toLowerCase()
    .replace(/[%_\\]/g, '\\$&')}%`;
