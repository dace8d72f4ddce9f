/** What the made-up application store has, each in its newest version. */
const versions: Readonly<Record<string, string>> = {
  ...{
    tansy: '8.2',
    corbel: '5.0.1',
    crossword: '3.4',
    'pocket-garden': '2.1',
    'bus-times': '1.9',
  },
};
/** Not offered any more. */
const withdrawn: Readonly<Record<string, string>> = { 'tide-table': '0.7' };

export const isWithdrawn = (application: string): boolean => Object.hasOwn(withdrawn, application);
export const versionOf = (application: string): string | null =>
  versions[application] ?? withdrawn[application] ?? null;

/** What of the store a family has. @param crosses whether it takes over what a namesake of another family kept */
export const inStore = (ids: readonly string[], crosses: boolean) =>
  ids.map((id) => ({ id, crosses, version: versionOf(id) }));
