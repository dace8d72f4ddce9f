/** How much a device holds. */
export interface ContentsSize {
  people: number;
  photographs: number;
  /** Width of a photograph in pixels; it is three quarters as high. */
  photographWidth: number;
  threads: number;
  /** Files of everything else are counted in proportion to this. */
  others: number;
  /** How likely a message has a picture. */
  pictureChance: number;
  clipFrames: number;
  songSeconds: number;
  /** The day before which nothing is of; almost three years ago where not said. What is said and called has a file a month. */
  from?: Date;
  /** With a few items in each class that are damaged, or mean harm. */
  withHostile?: true;
}

/** About 3,300 items and 350 MB. */
export const DEMO_SIZE: ContentsSize = {
  people: 260,
  photographs: 150,
  photographWidth: 2400,
  threads: 36,
  others: 100,
  pictureChance: 0.012,
  clipFrames: 24,
  songSeconds: 24,
  withHostile: true,
};

/** More than 200,000 messages and 50,000 photographs, in a gigabyte or so: for measuring. */
export const LARGE_SIZE: ContentsSize = {
  people: 900,
  photographs: 50_000,
  photographWidth: 320,
  threads: 260,
  others: 400,
  pictureChance: 0.002,
  clipFrames: 24,
  songSeconds: 24,
};

/** About 900 items and 45 MB. */
export const MIDDLE_SIZE: ContentsSize = {
  people: 90,
  photographs: 36,
  photographWidth: 1600,
  threads: 12,
  others: 28,
  pictureChance: 0.008,
  clipFrames: 24,
  songSeconds: 24,
};

/** About 160 items and 4 MB: for tests. */
export const SMALL_SIZE: ContentsSize = {
  people: 12,
  photographs: 8,
  photographWidth: 640,
  threads: 2,
  others: 3,
  pictureChance: 0.006,
  clipFrames: 4,
  songSeconds: 3,
  from: new Date(Date.UTC(2025, 8, 3)),
};
