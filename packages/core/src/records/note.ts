/** Something that somebody wrote down for themselves. */
export interface Note {
  /** Plain, or Markdown. */
  text: string;
}

/** What a note is called: its first line that says something, without its mark as a heading. */
export const titleOf = ({ text }: Note): string =>
  text
    .split(/\r?\n/)
    .map((line) => line.replace(/^#+\s+/, '').trim())
    .find((line) => line !== '') ?? '';
