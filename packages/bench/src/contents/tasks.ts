import { writeRecords } from '@bright-cellar/core/formats';
import type { NewFile } from './generate.js';
import { moment, sentence, type Life } from './life.js';

/** What there is to do: with people, at places, for somebody. */
const meant = (life: Life): string => {
  const { given } = life.chance.pick(life.people);
  const { name } = life.chance.pick(life.places);
  return life.chance.pick([
    `Ring ${given} back about ${name}`,
    `Bring ${given} the ladder back`,
    `Photographs of ${name} for ${given}`,
    `Ask ${given} for the key of the boathouse`,
    `Two tickets to ${name}`,
    `Book of tides for ${given}`,
  ]);
};

/**
 * Some are done, some due on a day, some at an hour, some ring before; every seventh comes again each week.
 * @param format a media type of tasks
 * @param pathOf where the one of a number lies
 */
export function* tasks(
  life: Life,
  count: number,
  format: string,
  pathOf: (n: string) => string,
): Generator<NewFile> {
  for (let i = 1; i <= count; i++) {
    const modified = moment(life);
    const day = new Date(modified.getTime() + life.chance.whole(1, 40) * 86_400_000);
    const isWeekly = i % 7 === 3;
    const isAtHour = i % 3 === 0;
    const wall = `${day.toISOString().slice(0, 10)}${isAtHour ? 'T17:30:00' : ''}`;
    const due = isWeekly || i % 4 !== 1 ? { wall, zone: null } : null;
    const task = {
      uid: `task-${i}-${life.owner.given.toLowerCase()}@example.org`,
      title: isWeekly ? 'Water the beans' : meant(life),
      notes: i % 5 === 2 ? sentence(life) : '',
      ...{ due, done: !isWeekly && i % 3 === 1, priority: [0, 0, 5, 1, 9][i % 5] ?? 0 },
      rule: isWeekly ? 'FREQ=WEEKLY' : null,
      alarms: due && isAtHour ? [30] : [],
    };
    const path = pathOf(String(i).padStart(4, '0'));
    const contents = Buffer.from(writeRecords(format, { kind: 'tasks', tasks: [task] }, path));
    yield { path, contents, modified };
  }
}
