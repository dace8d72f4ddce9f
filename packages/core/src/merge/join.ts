import type { Contact } from '../records/contact.js';
import { mergeRules } from './fields.js';
import type { Held, MergeLine, Step } from './plan.js';
import { joined } from './same-person.js';

type Line = MergeLine<Contact>;

/** What a line's contact says once its steps are done; null where it goes, or both sides changed it. */
export function contactAfter({ steps, device, partner, conflict }: Line): Contact | null {
  if (conflict !== null) return null;
  const { device: here, partner: there } = steps;
  if (here.do === 'remove' || there.do === 'remove') return null;
  if (here.do === 'change' || here.do === 'add') return here.record;
  if (there.do === 'change' || there.do === 'add') return there.record;
  return device?.record ?? partner?.record ?? null;
}

/**
 * Lines in which some two are one person: the first has all of both on both sides, and the second goes. Of two that cannot be
 * joined now nothing is changed.
 * @param joins keys of lines, the one that stays first
 */
export function withJoined(
  lines: readonly Line[],
  joins: readonly (readonly [stays: string, goes: string])[],
): Line[] {
  const byKey = new Map(lines.map((line) => [line.key, line]));
  for (const [stays, goes] of joins) {
    const [one, other] = [byKey.get(stays), byKey.get(goes)];
    const [first, second] = [one && contactAfter(one), other && contactAfter(other)];
    if (!one || !other || !first || !second) continue;
    const record = joined(first, second);
    const device = one.device ?? other.device;
    const partner = one.partner ?? other.partner;
    byKey.set(stays, {
      ...{ ...one, device, partner, conflict: null, base: { device: record, partner: record } },
      steps: { device: become(device, record), partner: become(partner, record) },
      ids: { device: device?.id ?? null, partner: partner?.id ?? null },
      untold: { device: [], partner: [] },
    });
    const left = {
      device: one.device ? other.device : null,
      partner: one.partner ? other.partner : null,
    };
    byKey.set(goes, {
      ...{ ...other, ...left, conflict: null, base: null },
      steps: { device: gone(left.device), partner: gone(left.partner) },
    });
  }
  return lines.map((line) => byKey.get(line.key) ?? line);
}

function become(held: Held<Contact> | null, record: Contact): Step<Contact> {
  if (!held) return { do: 'add', record };
  const fields = mergeRules.contacts.fields
    .filter(({ same }) => !same(held.record, record))
    .map(({ field }) => field);
  return fields.length === 0 ? { do: 'nothing' } : { do: 'change', id: held.id, record, fields };
}

const gone = (held: Held<Contact> | null): Step<Contact> =>
  held ? { do: 'remove', id: held.id } : { do: 'nothing' };
