import type { SamePersons } from '@bright-cellar/contract';
import type { MergedRecords } from '@bright-cellar/core/merge';
import { heldSync, kindOf, plan } from './held-syncs.js';

const TOLD_MAX = 200;

const detailsOf = ({
  numbers,
  emails,
  birthday,
  organisation,
}: MergedRecords['contacts']): string =>
  [...numbers, ...emails, birthday, organisation].filter((part) => part !== '').join(', ');

/** Cards that may be one person's, the surest first. */
export function samePersonsOf(id: string, technicianId: string): SamePersons {
  const { persons, joins, apart } = kindOf(heldSync(id, technicianId), 'contacts');
  return {
    total: persons.length,
    pairs: persons.slice(0, TOLD_MAX).map(({ one, other, contacts, reasons, isCertain }) => ({
      ...{ one, other, reasons, isCertain },
      names: [contacts[0].name, contacts[1].name],
      details: [detailsOf(contacts[0]), detailsOf(contacts[1])],
      isJoined: joins.some(
        ([stays, goes]) => stays === apart[one]?.key && goes === apart[other]?.key,
      ),
    })),
  };
}

/** Two cards are one from now on, or two again; or all that are certain. Each is joined to one other at most. */
export function joinPersons(
  id: string,
  technicianId: string,
  { pair, areOne }: { pair: { one: number; other: number } | null; areOne: boolean },
): Promise<void> {
  const held = heldSync(id, technicianId);
  const of = kindOf(held, 'contacts');
  const meant = pair ? [pair] : of.persons.filter(({ isCertain }) => isCertain);
  for (const { one, other } of meant) {
    const [stays, goes] = [of.apart[one]?.key, of.apart[other]?.key];
    if (stays === undefined || goes === undefined) continue;
    const isOfThese = ([a, b]: [string, string]) => a === stays && b === goes;
    of.joins = of.joins.filter((join) => !isOfThese(join));
    const isFree = of.joins.every((join) => !join.includes(stays) && !join.includes(goes));
    if (areOne && isFree) of.joins.push([stays, goes]);
  }
  return plan(held, of);
}
