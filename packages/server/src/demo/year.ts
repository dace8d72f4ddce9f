import type { DataClass, VisitReason } from '@bright-cellar/core';

/** A visit of the demo's past, made up. */
export interface PastVisit {
  customer: string;
  phone: string;
  device: { model: string; name: string; kind: 'phone' | 'tablet'; serial: string; os: string };
  reason: VisitReason;
  takenAt: string;
  /** Files of about 40 kB, by class. */
  holds: Partial<Record<DataClass, number>>;
  keepDays: number;
  proven: boolean;
  closed: boolean;
  notes: string;
}

const DAY_MS = 86_400_000;

const firstNames =
  'Ada Berit Corin Dalia Edmar Fenna Garrit Hedda Ilse Jorun Kester Lotte Mirja Nell Osric Petra Quin Rasmus Silke Tamsin Ulf Vesna Wystan Yrsa Zeno'.split(
    ' ',
  );
const surnames =
  'Applegarth Brackwater Copperhay Dunmarrow Elderfield Fernhollow Gatterby Heronsgate Inglewick Junipere Kettleshaw Larkmoor Millstrand Netherby Oakenroyd Pellingham Quarrendale Rookwater Saltmarsh Thornley-Grey Umberton Vellacott Wintersfold Yarrowby'.split(
    ' ',
  );
const colours = ['grey', 'black', 'silver', 'white', 'blue', 'green', 'red', 'gold'];
const marks = [
  'corner chipped before it came in',
  'deep scratch across the back',
  'no charger with it',
  'sticker of a heron on the cover',
  'screen cracked at the top left',
  'dent beside the button',
  'in a leather sleeve',
  'wet when it came in',
];
const phones = ['Arc 5', 'Arc 6', 'Arc 7'];
const tablets = ['Slate 9', 'Slate 11'];
const reasons: VisitReason[] = [
  ...['repair', 'repair', 'repair', 'replacement', 'safety-copy'],
  ...['recovered', 'loaner', 'replacement'],
] as VisitReason[];
const kept = [30, 60, 90, 180, 365, 400];
const holdings: Partial<Record<DataClass, number>>[] = [
  { contacts: 1, messages: 14, documents: 9 },
  { contacts: 1, messages: 8, notes: 2, applications: 26 },
  { contacts: 1, calendar: 1, messages: 18, 'voice-notes': 40 },
  { contacts: 1, documents: 60, settings: 1 },
  { messages: 13, health: 4, applications: 9 },
];

/** A number out of a seed (Lehmer's), so that the past is the same each time. */
function randomFrom(seed: number): (below: number) => number {
  let state = seed;
  return (below) => (state = (state * 48_271) % 2_147_483_647) % below;
}

/**
 * A year of visits that ended some days ago, the newest first. Nobody comes on a Sunday.
 * @param last the day before which the newest came
 */
export function yearBefore(last: Date, count: number): PastVisit[] {
  const random = randomFrom(4680);
  const pick = <T>(all: readonly T[]): T => all[random(all.length)] as T;
  const step = (365 * DAY_MS) / count;
  return Array.from({ length: count }, (_, n) => {
    const at = new Date(last.getTime() - Math.round((n + 0.5) * step));
    if (at.getUTCDay() === 0) at.setTime(at.getTime() - DAY_MS);
    at.setUTCHours(9 + random(8), random(60), 0, 0);
    const first = pick(firstNames);
    const kind = random(4) === 0 ? 'tablet' : 'phone';
    const model = pick(kind === 'tablet' ? tablets : phones);
    const serial = `V${model.charAt(0)}${model.split(' ')[1] ?? ''}${(1_000_000 + random(8_999_999)).toString(36).toUpperCase()}${String(n).padStart(3, '0')}`;
    return {
      customer: `${first} ${pick(surnames)}`,
      // Numbers that are kept for stories.
      phone: `+44 7700 900${String(random(1000)).padStart(3, '0')}`,
      device: {
        ...{ model, kind, serial },
        name: random(3) === 0 ? `${first} work` : `${first}’s ${kind}`,
        os: `${15 + random(3)}.${random(6)}`,
      },
      reason: pick(reasons),
      takenAt: at.toISOString(),
      holds: pick(holdings),
      keepDays: pick(kept),
      proven: random(12) > 0,
      closed: true,
      notes: `${capital(pick(colours))} ${kind}, ${pick(marks)}.`,
    };
  });
}

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);
