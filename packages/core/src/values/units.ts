/** Sizes as printed on drives. */
export const KB = 1e3;
export const MB = 1e6;
export const GB = 1e9;
