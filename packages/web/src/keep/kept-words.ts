import type { Keeping } from '@bright-cellar/contract';
import { day } from '../design/dates.js';

/** How long something is kept, in a sentence. */
export function keptWords({ dueAt, untilTold }: Keeping): string {
  if (untilTold) return 'Until the customer says otherwise.';
  if (!dueAt) return 'Its visit is open: the days that were agreed run from its end.';
  const isOver = new Date(dueAt) <= new Date();
  return isOver
    ? `By what was agreed, until ${day(dueAt)}: that is over. Ask the customer.`
    : `Until ${day(dueAt)}, by what was agreed.`;
}
