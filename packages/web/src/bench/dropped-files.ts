/** Files that were dragged onto a berth, until the page that takes them has them. */
let dropped: readonly File[] = [];

export const dropFiles = (files: readonly File[]): void => {
  dropped = files;
};

export function takeDropped(): readonly File[] {
  const files = dropped;
  dropped = [];
  return files;
}
