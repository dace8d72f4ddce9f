/** Where a device shows its applications, by their names. */
export interface HomeScreen {
  pages: string[][];
  /** Those on every page. */
  dock: string[];
}
