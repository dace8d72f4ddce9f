import { countOf, formatBytes } from '../values/index.js';
import { SAVE_OVERDUE_MS } from '../keep/index.js';

/** What is known of an installation when somebody asks how it is. Instants are UTC; null where it could not be asked. */
export interface ConditionFacts {
  now: Date;
  /** The medium of the data folder. */
  disk: { capacity: number; free: number } | null;
  /** The newest entry of the record: nothing was written later than now. */
  lastEntry: Date | null;
  database: { version: string; answeredInMs: number } | null;
  migrations: { made: number; known: number } | null;
  /** Whether the other processes answer; null where the program does not run. */
  processes: { work: boolean; adapter: boolean } | null;
  racks: readonly {
    name: string;
    present: boolean;
    carried: boolean;
    room: number;
    narrow: boolean;
    ailing: string | null;
  }[];
  saves: {
    hasKey: boolean;
    /** The newest that lies on a rack. */
    lastAt: Date | null;
    problems: readonly { rack: string; what: string }[];
  };
  /** Null where TLS is not spoken here. */
  certificate: { until: Date; uncovered: readonly string[] } | null;
  queues: {
    /** Work that was ordered and not taken up, the longest; ms. */
    orderedForMs: number;
    /** Changes of which nobody told browsers yet. */
    untold: number;
    /** Archives that the house rules ask more copies of. `isMore`: they were not counted further. */
    owed: { total: number; isMore: boolean };
  };
  keepers: number;
  /** Of the two who open the escrow, whoever works here no longer. */
  escrowLeft: readonly string[];
  versions: { program: string; node: string; supported: boolean };
  /** Whether others on this computer can read what is for this user only. */
  keyIsPrivate: boolean;
  /** From which save the catalogue was brought back; null where it never was. */
  restoredFrom: Date | null;
}

/** `well`; `look`: somebody should look at it soon; `wrong`: something does not work, or will be lost. */
export type FindingState = 'well' | 'look' | 'wrong';
export interface Finding {
  about: string;
  state: FindingState;
  what: string;
  /** What to do; empty where nothing is. */
  next: string;
}

const LITTLE = { bytes: 20e9, share: 0.1 };
const NEARLY_NOTHING = 2e9;
const SLOW_MS = 1000;
const DAY_MS = 86_400_000;
const CERTIFICATE_DAYS = 21;
const ORDERED_MS = 60_000;
const UNTOLD = 1000;

const well = (about: string, what: string): Finding => ({ about, state: 'well', what, next: '' });

/** How an installation is, by what is known of it: a line for each thing that can go wrong, the worst first. */
export function judgeCondition(facts: ConditionFacts): Finding[] {
  const order: FindingState[] = ['wrong', 'look', 'well'];
  return [
    saves(facts),
    database(facts),
    ...processes(facts),
    disk(facts),
    ...racks(facts),
    clock(facts),
    certificate(facts),
    queues(facts),
    people(facts),
    ...escrow(facts),
    secrets(facts),
    versions(facts),
    ...restored(facts),
  ].sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
}

function saves({ saves: { hasKey, lastAt, problems }, now }: ConditionFacts): Finding {
  const about = 'Saved catalogue';
  if (!hasKey) {
    return {
      ...{
        about,
        state: 'wrong',
        what: 'The catalogue is not saved: nobody made the recovery key.',
      },
      next: 'Make the recovery key under Condition, and keep it on paper away from the shop.',
    };
  }
  const [problem] = problems;
  if (lastAt === null || now.getTime() - lastAt.getTime() > SAVE_OVERDUE_MS + DAY_MS) {
    return {
      ...{ about, state: 'wrong' },
      what:
        lastAt === null
          ? 'No save lies on any rack yet.'
          : `The last save is ${daysBetween(lastAt, now)} old.`,
      next: problem
        ? `${problem.rack}: ${problem.what}`
        : 'Connect a rack, and save it now, below.',
    };
  }
  if (problem) {
    return {
      ...{ about, state: 'look', what: `${problem.rack}: ${problem.what}` },
      next: 'Look after that rack; the others have it.',
    };
  }
  return well(
    about,
    `Saved ${lastAt.getTime() > now.getTime() - DAY_MS ? 'in the last day' : 'yesterday'}.`,
  );
}

const daysBetween = (one: Date, other: Date) => {
  const days = Math.max(1, Math.round((other.getTime() - one.getTime()) / DAY_MS));
  return days === 1 ? 'a day' : `${days} days`;
};

function database({ database: found, migrations }: ConditionFacts): Finding {
  const about = 'Database';
  if (!found) {
    return {
      ...{ about, state: 'wrong', what: 'The database does not answer.' },
      next: 'Its log is database/mariadb.log in the data folder. Archives do not need it.',
    };
  }
  if (migrations && migrations.made !== migrations.known) {
    return {
      ...{ about, state: 'wrong' },
      what: `Its tables have ${migrations.made} of the program’s ${migrations.known} steps.`,
      next: 'Stop the program and start it again: the start brings them up to date.',
    };
  }
  if (found.answeredInMs > SLOW_MS) {
    return {
      ...{ about, state: 'look', what: `The database took ${found.answeredInMs} ms for a word.` },
      next: 'Look what else this computer does, and whether its disk is failing.',
    };
  }
  return well(about, `MariaDB ${found.version} answers.`);
}

function processes({ processes: found }: ConditionFacts): Finding[] {
  if (!found) return [{ ...well('Program', 'It does not run.'), state: 'look', next: 'npm start' }];
  const next =
    'It is started again by itself. If this stays so, look into logs/ in the data folder.';
  return [
    found.work
      ? well('Long work', 'The process that does it answers.')
      : {
          ...{ about: 'Long work', state: 'wrong' as const, next },
          what: 'The process that does long work does not answer.',
        },
    found.adapter
      ? well('Devices', 'The adapter that speaks to devices answers.')
      : {
          ...{ about: 'Devices', state: 'wrong' as const, next },
          what: 'The adapter that speaks to devices does not answer.',
        },
  ];
}

function disk({ disk: found }: ConditionFacts): Finding {
  const about = 'Disk of this computer';
  if (!found) {
    return {
      ...{ about, state: 'wrong', what: 'The data folder cannot be read.' },
      next: 'Look whether its disk is there.',
    };
  }
  const what = `${formatBytes(found.free)} of ${formatBytes(found.capacity)} free where the catalogue lies.`;
  const next =
    'Make room: what is on this disk and not of this program, old logs, packages that were handed out.';
  if (found.free < NEARLY_NOTHING) return { about, state: 'wrong', what, next };
  const isLittle = found.free < Math.min(LITTLE.bytes, found.capacity * LITTLE.share);
  return isLittle ? { about, state: 'look', what, next } : well(about, what);
}

function racks({ racks: all }: ConditionFacts): Finding[] {
  if (all.length === 0) {
    return [
      {
        ...{ about: 'Racks', state: 'wrong', what: 'There is no rack: no backup can be kept.' },
        next: 'Add one under Racks.',
      },
    ];
  }
  const found = all.flatMap(({ name, present, carried, room, narrow, ailing }): Finding[] => {
    const about = `Rack ${name}`;
    if (!present && !carried) {
      return [
        {
          ...{ about, state: 'wrong', what: 'It does not answer.' },
          next: 'Switch it on, or connect it.',
        },
      ];
    }
    if (ailing !== null && present) {
      return [{ about, state: 'wrong', what: ailing, next: 'Empty it: Racks proposes a plan.' }];
    }
    if (narrow && present) {
      return [
        {
          ...{ about, state: 'look', what: `${formatBytes(room)} free above its reserve.` },
          next: 'Make room: Racks proposes a plan.',
        },
      ];
    }
    return [];
  });
  if (found.length > 0) return found;
  const here = all.filter(({ present }) => present).length;
  return [well('Racks', `${here} of ${all.length} here, none of them ailing or nearly full.`)];
}

function clock({ lastEntry, now }: ConditionFacts): Finding {
  const about = 'Clock';
  if (lastEntry && lastEntry.getTime() > now.getTime() + 60_000) {
    return {
      ...{ about, state: 'wrong' },
      what: 'The clock went back: the record has an entry from the future.',
      next: 'Set this computer’s clock, and have it follow a time server.',
    };
  }
  return well(about, 'Nothing was written later than now.');
}

function certificate({ certificate: found, now }: ConditionFacts): Finding {
  const about = 'Certificate';
  if (!found)
    return well(about, 'None is needed: only this computer, or a proxy, reaches the program.');
  const days = Math.floor((found.until.getTime() - now.getTime()) / DAY_MS);
  if (days < CERTIFICATE_DAYS) {
    return {
      ...{ about, state: days < 3 ? 'wrong' : 'look' },
      what:
        days < 0 ? 'Its time is over: browsers refuse it.' : `It is good for ${days} more days.`,
      next: 'Give another one. One of the program’s own is renewed by itself: restart the program if it was not.',
    };
  }
  if (found.uncovered.length > 0) {
    return {
      ...{ about, state: 'look', what: `It is not for ${found.uncovered.join(', ')}.` },
      next: 'Give one that is, or take these names away.',
    };
  }
  return well(about, `Good for ${days} more days.`);
}

/** How many copies are owed; not more exactly than they were counted. */
export const owedSentence = ({ total, isMore }: ConditionFacts['queues']['owed']): string =>
  `${isMore ? 'More than ' : ''}${countOf(total, 'copy is', 'copies are')} owed by the house rules.`;

function queues({ queues: { orderedForMs, untold, owed } }: ConditionFacts): Finding {
  const about = 'What waits';
  if (orderedForMs > ORDERED_MS || untold > UNTOLD) {
    return {
      ...{ about, state: 'wrong' },
      what:
        orderedForMs > ORDERED_MS
          ? `Work was ordered ${Math.round(orderedForMs / 1000)} s ago and not taken up.`
          : 'Browsers are not told what changes.',
      next: 'Restart the program.',
    };
  }
  if (owed.total > 0) {
    return {
      ...{ about, state: 'look', what: owedSentence(owed) },
      next: 'Racks says what they wait for.',
    };
  }
  return well(about, 'No work, and no copy.');
}

function people({ keepers }: ConditionFacts): Finding {
  if (keepers > 1) return well('People', `${keepers} people keep the shop.`);
  return {
    ...{ about: 'People', state: 'look', what: 'One person keeps the shop.' },
    next: 'Make a second one a keeper: if the first forgets their password, nobody lets them in again.',
  };
}

function escrow({ escrowLeft }: ConditionFacts): Finding[] {
  if (escrowLeft.length === 0) return [];
  const who = escrowLeft.join(' and ');
  return [
    {
      ...{ about: 'Escrow', state: 'wrong' },
      what: `It opens with the phrase of ${who}, who works here no longer: nobody opens by it what is sealed to it.`,
      next: 'Set it up anew under House rules, with two who work here. What was sealed to it before opens with its own password alone: tell the customers who count on it.',
    },
  ];
}

function secrets({ keyIsPrivate }: ConditionFacts): Finding {
  const about = 'Data folder';
  if (keyIsPrivate) return well(about, 'Its secrets are for this user only.');
  return {
    ...{ about, state: 'wrong', what: 'Others on this computer can read its secrets.' },
    next: 'chmod -R go= on the data folder.',
  };
}

function versions({ versions: { program, node, supported } }: ConditionFacts): Finding {
  const what = `Bright Cellar ${program} on Node ${node}.`;
  if (supported) return well('Versions', what);
  return {
    ...{ about: 'Versions', state: 'wrong', what },
    next: 'Install a Node that package.json names under “engines”.',
  };
}

function restored({ restoredFrom }: ConditionFacts): Finding[] {
  if (!restoredFrom) return [];
  return [
    {
      ...{ about: 'Brought back', state: 'look' },
      what: `This catalogue was brought back from a save of ${restoredFrom.toISOString().slice(0, 10)}.`,
      next: 'Racks → Bring in lists what was changed on the racks after it.',
    },
  ];
}
