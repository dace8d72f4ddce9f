import { day } from '../../design/dates.js';

/** What was made on a day, or a part of it: on some days thousands were made, or copied, and only what is in sight is drawn. */
export interface RowOfADay<T> {
  name: string;
  /** 0 is the first of its day. */
  part: number;
  /** Of all of that day, as far as it is known. */
  count: number;
  made: T[];
}

const IN_A_ROW_MOST = 24;

/** @param made in the order of time; `at` is ISO 8601 */
export function rowsOfDays<T extends { at: string }>(made: readonly T[]): RowOfADay<T>[] {
  const days = new Map<string, T[]>();
  for (const one of made) {
    const name = day(one.at);
    const known = days.get(name);
    if (known) known.push(one);
    else days.set(name, [one]);
  }
  return [...days].flatMap(([name, all]) =>
    Array.from({ length: Math.ceil(all.length / IN_A_ROW_MOST) }, (_, part) => ({
      ...{ name, part, count: all.length },
      made: all.slice(part * IN_A_ROW_MOST, (part + 1) * IN_A_ROW_MOST),
    })),
  );
}
