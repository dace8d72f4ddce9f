import type { SamePersons } from '@bright-cellar/contract';
import {
  contactAfter,
  samePersons,
  type MergedRecords,
  type MergeLine,
} from '@bright-cellar/core/merge';
import { heldSync, kindOf, plan, type KindInStep } from './held-syncs.js';

type Contact = MergedRecords['contacts'];

const TOLD_MAX = 200;

/** Contacts as they will be on both sides, each with the place of its line. */
function contactsOf({ apart }: KindInStep): { at: number; contact: Contact }[] {
  return apart.flatMap((line, at) => {
    const contact = contactAfter(line as MergeLine<Contact>);
    return contact ? [{ at, contact }] : [];
  });
}

function pairsOf(of: KindInStep) {
  const contacts = contactsOf(of);
  return samePersons(contacts.map(({ contact }) => contact)).flatMap((pair) => {
    const [one, other] = [contacts[pair.one], contacts[pair.other]];
    return one && other ? [{ ...pair, one, other }] : [];
  });
}

const detailsOf = ({ numbers, emails, birthday, organisation }: Contact): string =>
  [...numbers, ...emails, birthday, organisation].filter((part) => part !== '').join(', ');

/** Cards that may be one person's, the surest first. */
export function samePersonsOf(id: string, technicianId: string): SamePersons {
  const of = kindOf(heldSync(id, technicianId), 'contacts');
  const pairs = pairsOf(of);
  return {
    total: pairs.length,
    pairs: pairs.slice(0, TOLD_MAX).map(({ one, other, reasons, isCertain }) => ({
      ...{ one: one.at, other: other.at, reasons, isCertain },
      names: [one.contact.name, other.contact.name],
      details: [detailsOf(one.contact), detailsOf(other.contact)],
      isJoined: of.joins.some(
        ([stays, goes]) => stays === of.apart[one.at]?.key && goes === of.apart[other.at]?.key,
      ),
    })),
  };
}

/** Two cards are one from now on, or two again; or all that are certain. Each is joined to one other at most. */
export function joinPersons(
  id: string,
  technicianId: string,
  { pair, areOne }: { pair: { one: number; other: number } | null; areOne: boolean },
): void {
  const held = heldSync(id, technicianId);
  const of = kindOf(held, 'contacts');
  const meant = pair
    ? [pair]
    : pairsOf(of)
        .filter(({ isCertain }) => isCertain)
        .map(({ one, other }) => ({ one: one.at, other: other.at }));
  for (const { one, other } of meant) {
    const [stays, goes] = [of.apart[one]?.key, of.apart[other]?.key];
    if (stays === undefined || goes === undefined) continue;
    const isOfThese = ([a, b]: [string, string]) => a === stays && b === goes;
    of.joins = of.joins.filter((join) => !isOfThese(join));
    const isFree = of.joins.every((join) => !join.includes(stays) && !join.includes(goes));
    if (areOne && isFree) of.joins.push([stays, goes]);
  }
  plan(held, of);
}
