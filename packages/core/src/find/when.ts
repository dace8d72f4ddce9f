/** A stretch of days, from its first moment to the first moment after it, UTC. */
export interface Days {
  from: Date | null;
  to: Date | null;
}

const months = [
  ...['january', 'february', 'march', 'april', 'may', 'june', 'july'],
  ...['august', 'september', 'october', 'november', 'december'],
];
/** First months of the seasons of meteorologists, northern half of the world. */
const seasons: Record<string, number> = { spring: 2, summer: 5, autumn: 8, fall: 8, winter: 11 };
const feasts: Record<string, (year: number) => Date> = {
  easter: easterOf,
  christmas: (year) => new Date(Date.UTC(year, 11, 25)),
};
const DAY_MS = 86_400_000;

const monthOf = (word: string): number =>
  word.length < 3 ? -1 : months.findIndex((month) => month === word || month.slice(0, 3) === word);
const isYear = (word: string | undefined): word is string =>
  word !== undefined && /^20\d\d$/.test(word);

/** Easter Sunday of a year (the anonymous Gregorian computus, as Meeus gives it). */
export function easterOf(year: number): Date {
  const a = year % 19;
  const b = Math.floor(year / 100);
  const c = year % 100;
  const d = b - Math.floor(b / 4) - Math.floor((8 * b + 13) / 25) + 19 * a + 15;
  const h = d % 30;
  const i = Math.floor(c / 4);
  const l = (32 + 2 * (b % 4) + 2 * i - h - (c % 4)) % 7;
  const m = Math.floor((a + 11 * h + 22 * l) / 451);
  const day = h + l - 7 * m + 114;
  return new Date(Date.UTC(year, Math.floor(day / 31) - 1, (day % 31) + 1));
}

const day = (at: Date): Days => ({ from: at, to: new Date(at.getTime() + DAY_MS) });
const monthsFrom = (year: number, month: number, count: number): Days => ({
  from: new Date(Date.UTC(year, month, 1)),
  to: new Date(Date.UTC(year, month + count, 1)),
});
const startOfDay = (now: Date) =>
  new Date(Date.UTC(now.getUTCFullYear(), now.getUTCMonth(), now.getUTCDate()));

/** Of something that comes every year, the last time that it had begun. */
function lastTime(of: (year: number) => Days, now: Date, before = 0): Days {
  const year = now.getUTCFullYear();
  const begun = (of(year).from?.getTime() ?? 0) <= now.getTime();
  return of((begun ? year : year - 1) - before);
}

/**
 * What begins with a word, and how many words say it; null where it is no date.
 * @param isLed something before it says that a date comes: people are called April, and Summer
 */
function daysAt(
  words: readonly string[],
  now: Date,
  isLed: boolean,
): { days: Days; used: number } | null {
  const [word = '', next, third] = words;
  const yearly = yearlyAt(word);
  if (yearly) {
    if (isYear(next)) return { days: yearly(Number(next)), used: 2 };
    return isLed ? { days: lastTime(yearly, now), used: 1 } : null;
  }
  if (/^\d{1,2}$/.test(word) && monthOf(next ?? '') >= 0) {
    const on = (year: number) => day(new Date(Date.UTC(year, monthOf(next ?? ''), Number(word))));
    return isYear(third)
      ? { days: on(Number(third)), used: 3 }
      : { days: lastTime(on, now), used: 2 };
  }
  if (/^20\d\d-\d\d-\d\d$/.test(word)) return { days: day(new Date(`${word}T00:00:00Z`)), used: 1 };
  if (/^20\d\d-\d\d$/.test(word)) {
    const [year, month] = word.split('-').map(Number);
    return { days: monthsFrom(year ?? 0, (month ?? 1) - 1, 1), used: 1 };
  }
  if (isYear(word)) return { days: monthsFrom(Number(word), 0, 12), used: 1 };
  const today = startOfDay(now);
  if (word === 'today') return { days: day(today), used: 1 };
  if (word === 'yesterday') return { days: day(new Date(today.getTime() - DAY_MS)), used: 1 };
  if (word === 'last' || word === 'this') return relative(word, next ?? '', now);
  return null;
}

function yearlyAt(word: string): ((year: number) => Days) | null {
  const season = seasons[word];
  if (season !== undefined) return (year) => monthsFrom(year, season, 3);
  const feast = feasts[word];
  if (feast) return (year) => day(feast(year));
  const month = monthOf(word);
  return month >= 0 ? (year) => monthsFrom(year, month, 1) : null;
}

function relative(which: 'last' | 'this', word: string, now: Date) {
  const back = which === 'last' ? 1 : 0;
  const [year, month] = [now.getUTCFullYear(), now.getUTCMonth()];
  if (word === 'year') return { days: monthsFrom(year - back, 0, 12), used: 2 };
  if (word === 'month') return { days: monthsFrom(year, month - back, 1), used: 2 };
  if (word === 'week') {
    const today = startOfDay(now);
    const monday = today.getTime() - ((today.getUTCDay() + 6) % 7) * DAY_MS - back * 7 * DAY_MS;
    return { days: { from: new Date(monday), to: new Date(monday + 7 * DAY_MS) }, used: 2 };
  }
  const yearly = yearlyAt(word);
  if (!yearly) return null;
  const last = lastTime(yearly, now);
  // “Last March”, said in March, is that of the year before.
  const isOn = last.to !== null && last.to > now;
  return { days: which === 'last' && isOn ? lastTime(yearly, now, 1) : last, used: 2 };
}

const befores: readonly string[] = ['before', 'until'];
const afters: readonly string[] = ['after', 'since'];
const leads: readonly string[] = ['from', 'in', 'of', 'taken', 'since', 'around', 'at'];

/**
 * The first date that people's words say, and what is left of them: “grey tablet before easter”, “spring 2026”, “last march”.
 * Seasons are those of the northern half of the world; without a year, the last time is meant.
 */
export function takenWhen(
  words: readonly string[],
  now: Date,
): { days: Days | null; rest: string[] } {
  for (const [at, word] of words.entries()) {
    const isBefore = befores.includes(word);
    const isAfter = afters.includes(word);
    const begins = isBefore || isAfter ? at + 1 : at;
    const isLed = begins > at || leads.includes(words[at - 1] ?? '');
    const found = daysAt(words.slice(begins), now, isLed);
    if (!found) continue;
    const { from, to } = found.days;
    const days = isBefore
      ? { from: null, to: from }
      : isAfter
        ? { from: word === 'since' ? from : to, to: null }
        : found.days;
    return { days, rest: [...words.slice(0, at), ...words.slice(begins + found.used)] };
  }
  return { days: null, rest: [...words] };
}
