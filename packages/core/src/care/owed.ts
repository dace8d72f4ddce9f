import type { CareRules } from './rules.js';

type CopyRules = Pick<CareRules, 'copies' | 'offPremises'>;

/** What counts of an archive's copies: those that are whole as far as anybody knows, and hold all of it. */
export interface GoodCopies {
  count: number;
  /** One of them is off the premises. */
  offPremises: boolean;
  /** How many more are whole and older: each is owed what is new, however many the house rules ask for. */
  older: number;
}

/** What an archive is owed by the house rules; null where nothing is. */
export function owedTo(
  good: GoodCopies,
  { copies, offPremises }: CopyRules,
): { copies: number; offPremises: boolean } | null {
  const missing = Math.max(0, Number(copies) - good.count);
  const away = offPremises && !good.offPremises;
  const owed = Math.max(missing, away ? 1 : 0, good.older);
  return owed === 0 ? null : { copies: owed, offPremises: away };
}

/** A rack that a copy could go onto. */
export interface Target<Id extends string = string> {
  id: Id;
  name: string;
  present: boolean;
  offPremises: boolean;
  free: number;
  reserve: number;
  /** It reads slower than it did, or gave damage back: nothing new goes there while another rack can take it. */
  ailing: boolean;
  /** What lies there of the archive already; null where nothing does. */
  has: { isNewest: boolean; isDamaged: boolean; storedBytes: number } | null;
}

/**
 * Which rack an owed copy goes onto, or why it cannot be made now. A copy that is there and older is brought up to date
 * first: least is sent for it. Of others one that is sound, and of these the one that keeps most of its room.
 * @param bytes that a whole copy takes
 */
export function whereTo<Id extends string>(
  owed: { copies: number; offPremises: boolean },
  racks: readonly Target<Id>[],
  bytes: number,
): { rack: Target<Id> } | { why: string } {
  // Where only one is owed and it must be away, no other rack pays for it: but what is there and older is updated anyhow.
  const mustBeAway = owed.offPremises && owed.copies <= 1;
  const wanted = racks.filter(({ has }) => has === null || (!has.isNewest && !has.isDamaged));
  const able = wanted.filter((rack) => !mustBeAway || rack.offPremises || rack.has !== null);
  if (able.length === 0) {
    return {
      why: mustBeAway
        ? 'No rack stands off the premises that does not have it: add one, or say so of one.'
        : 'Every rack has it already: add another.',
    };
  }
  const here = able.filter(({ present }) => present);
  if (here.length === 0) {
    return {
      why: `Connect ${able
        .map(({ name }) => name)
        .slice(0, 3)
        .join(' or ')}.`,
    };
  }
  const left = ({ free, reserve, has }: Target) =>
    free - reserve - (bytes - (has?.storedBytes ?? 0));
  const fitting = here.filter((rack) => left(rack) > 0);
  const [best] = fitting.sort(
    (a, b) =>
      Number(b.has !== null) - Number(a.has !== null) ||
      Number(owed.offPremises && b.offPremises) - Number(owed.offPremises && a.offPremises) ||
      Number(a.ailing) - Number(b.ailing) ||
      left(b) - left(a),
  );
  return best
    ? { rack: best }
    : {
        why: `No room for it on ${here
          .map(({ name }) => name)
          .slice(0, 3)
          .join(' or ')}.`,
      };
}
