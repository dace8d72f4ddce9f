import { Failure, type OperationInput } from '@bright-cellar/core';
import { chosenPart, inHand, type Picked, type Selection } from '@bright-cellar/core/crossing';
import type { CrossingJob } from './crossing.js';

/** So many loss reports of what was in hand are remembered, for the sending that follows them. */
const REMEMBERED_MAX = 50;

/** What was in hand when a loss report was made, by the work that made it: in memory only, and gone with the process. */
const remembered = new Map<string, Picked>();

/** What of the backup a loss report is of. What is in hand is remembered for the sending. @throws Failure `look-in-over` */
export async function selectionToForesee(job: CrossingJob): Promise<Selected> {
  const { lookIn } = job.input;
  if (lookIn === null) return { selection: partOf(job.input), inStores: 0 };
  const picked = await job.inHand(lookIn);
  remembered.set(job.operationId, picked);
  for (const id of [...remembered.keys()].slice(0, -REMEMBERED_MAX)) remembered.delete(id);
  return selectedOf(picked);
}

/** The same again, to send it. @param foresaw the work that made the loss report */
export function selectionToSend(
  input: OperationInput<'foresee'>,
  foresaw: string | null,
): Selected {
  if (input.lookIn === null) return { selection: partOf(input), inStores: 0 };
  const picked = remembered.get(foresaw ?? '');
  if (!picked) {
    throw new Failure('look-in-over', {
      what: 'Nobody knows any more what was in hand.',
      next: 'Open the backup again, take in hand what shall go, and ask for the loss report again.',
    });
  }
  return selectedOf(picked);
}

interface Selected {
  selection: Selection;
  /** Messages in hand that lie in the stores of applications. */
  inStores: number;
}

const partOf = ({ choice, days, zone }: OperationInput<'foresee'>): Selection =>
  chosenPart(choice, days, zone);
const selectedOf = (picked: Picked): Selected => ({
  selection: inHand(picked),
  inStores: picked.inStores,
});
