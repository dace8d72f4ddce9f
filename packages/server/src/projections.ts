import { refreshArchiveRow } from './archives/index.js';
import type { Projections } from './kernel/unit-of-work.js';

/** What is kept of things for lists and sums. One line adds one. */
export const projections: Projections = {
  archive: refreshArchiveRow,
};
