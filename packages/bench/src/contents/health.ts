import type { NewFile } from './generate.js';
import { monthsOf, type Life } from './life.js';

/** Steps and sleep by day, pulse a few times a day, weight by week: over all the time that the device was used. */
export function* health(life: Life): Generator<NewFile> {
  const { chance } = life;
  let weight = chance.whole(580, 880) / 10;
  for (const month of monthsOf(life)) {
    const rows: string[] = [];
    for (let day = 1; day <= 28; day++) {
      const date = `${month}-${String(day).padStart(2, '0')}`;
      const isWeekend = [0, 6].includes(new Date(`${date}T12:00:00Z`).getUTCDay());
      rows.push(`${date}T06:30:00.000Z,sleep,${chance.whole(52, isWeekend ? 95 : 82) / 10},h`);
      for (const hour of ['08', '13', '20']) {
        rows.push(`${date}T${hour}:10:00.000Z,pulse,${chance.whole(54, 96)},per minute`);
      }
      if (day % 7 === 1) {
        weight = Math.max(45, weight + chance.whole(-6, 6) / 10);
        rows.push(`${date}T07:00:00.000Z,weight,${weight.toFixed(1)},kg`);
      }
      rows.push(`${date}T21:59:00.000Z,steps,${chance.whole(900, isWeekend ? 19_000 : 11_000)},`);
    }
    yield {
      path: `health/${month}.csv`,
      contents: `at,what,value,unit\r\n${rows.join('\r\n')}\r\n`,
      modified: new Date(`${month}-28T23:00:00Z`),
    };
  }
}
