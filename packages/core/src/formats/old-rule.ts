/** Days of the week as both grammars write them. */
const DAY = /^(?:SU|MO|TU|WE|TH|FR|SA)$/;

/**
 * How something recurs, as vCalendar 1.0 writes it (versit, 1996, "Recurrence Rule Grammar"), as an RRULE of RFC 5545: the basic
 * forms by day, week, day or weekday of the month, month and day of the year.
 * @throws Error for any other
 */
export function newRule(old: string): string {
  const [head = '', ...parts] = old.trim().toUpperCase().split(/\s+/);
  const [, kind, every = '1'] = /^(D|W|MD|MP|YM|YD)(\d+)$/.exec(head) ?? [];
  if (!kind) throw new Error('not a rule');
  // Without a duration it recurs twice; `#0` is for ever.
  let ends = 'COUNT=2';
  const on: string[] = [];
  for (const part of parts) {
    if (part.startsWith('#')) ends = part === '#0' ? '' : `COUNT=${Number(part.slice(1))}`;
    else if (/^\d{8}T\d{6}Z?$/.test(part)) ends = `UNTIL=${part}`;
    else on.push(part);
  }
  const rule = [`FREQ=${frequencies[kind] ?? 'DAILY'}`, `INTERVAL=${Number(every)}`];
  const list = (name: string, all: readonly string[]) => {
    if (all.length > 0) rule.push(`${name}=${all.join(',')}`);
  };
  if (kind === 'W')
    list(
      'BYDAY',
      on.filter((day) => DAY.test(day)),
    );
  if (kind === 'MP') list('BYDAY', positioned(on));
  if (kind === 'MD')
    list(
      'BYMONTHDAY',
      on.map((day) => (day === 'LD' ? '-1' : signed(day))),
    );
  if (kind === 'YM') list('BYMONTH', on);
  if (kind === 'YD') list('BYYEARDAY', on);
  return [...rule, ends].filter(Boolean).join(';');
}

const frequencies: Record<string, string> = {
  ...{ D: 'DAILY', W: 'WEEKLY', MD: 'MONTHLY', MP: 'MONTHLY', YM: 'YEARLY', YD: 'YEARLY' },
};

/** `3-` is the third from the end. */
const signed = (text: string): string =>
  text.endsWith('-') ? `-${text.slice(0, -1)}` : text.replace(/\+$/, '');

/** `2+ FR SA` are the second Friday and the second Saturday. */
function positioned(parts: readonly string[]): string[] {
  let place = '';
  return parts.flatMap((part) => {
    if (DAY.test(part)) return [`${place}${part}`];
    place = signed(part);
    return [];
  });
}

/** How something recurs, as vCalendar 1.0 writes it; null where its grammar has no word for that. @param rule of RFC 5545 */
export function oldRule(rule: string): string | null {
  const { FREQ: frequency = '', INTERVAL: every = '1', COUNT, UNTIL, ...by } = partsOf(rule);
  const only = (name: string) => Object.keys(by).every((one) => one === name);
  const list = (name: string) => by[name]?.split(',') ?? [];
  const days = list('BYDAY');
  let words: string[] | null = null;
  if (frequency === 'DAILY' && only('')) words = [`D${every}`];
  else if (frequency === 'WEEKLY' && only('BYDAY') && days.every((day) => DAY.test(day))) {
    words = [`W${every}`, ...days];
  } else if (frequency === 'MONTHLY' && only('BYMONTHDAY')) {
    words = [`MD${every}`, ...list('BYMONTHDAY').map((day) => (day === '-1' ? 'LD' : old(day)))];
  } else if (frequency === 'MONTHLY' && only('BYDAY') && days.every((day) => PLACED.test(day))) {
    words = [`MP${every}`, ...days.flatMap((day) => [placeOf(day), day.slice(-2)])];
  } else if (frequency === 'YEARLY' && only('BYMONTH')) words = [`YM${every}`, ...list('BYMONTH')];
  else if (frequency === 'YEARLY' && only('BYYEARDAY')) {
    words = [`YD${every}`, ...list('BYYEARDAY')];
  }
  const until = UNTIL?.replace(/^(\d{8})$/, '$1T000000');
  return words && [...words, until ?? `#${COUNT ?? '0'}`].join(' ');
}

const PLACED = /^-?[1-5](?:SU|MO|TU|WE|TH|FR|SA)$/;
const old = (day: string): string => (day.startsWith('-') ? `${day.slice(1)}-` : day);
const placeOf = (day: string): string =>
  day.startsWith('-') ? `${day.slice(1, -2)}-` : `${day.slice(0, -2)}+`;

const partsOf = (rule: string): Partial<Record<string, string>> =>
  Object.fromEntries(rule.split(';').map((part) => part.split('=', 2) as [string, string]));
