import { archiveIdSchema } from '@bright-cellar/core';
import { refreshArchiveRow } from './archives/index.js';
import type { Projections } from './kernel/unit-of-work.js';

/** What is kept of things for lists and sums. One line adds one. */
export const projections: Projections = {
  archive: (tx, id) => refreshArchiveRow(tx, archiveIdSchema.parse(id)),
};
