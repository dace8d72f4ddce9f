import { plainStyle, writeExtract } from '../extract/formats.js';
import { keyed } from '../extract/records.js';
import type { TakeOutChoices } from './choices.js';
import { cameWith, escapeHtml, htmlPage } from '../extract/markup.js';

/** A conversation as it is taken out. */
export interface ToldConversation {
  /** Those in it beside the owner. */
  people: string[];
  /** Where it was held. */
  sources: string[];
  /** In the order of time. */
  said: {
    at: Date;
    /** Empty for the owner. */
    from: string;
    text: string;
    source: string;
    /** What came with it. */
    with: { name: string; path: string | null } | null;
  }[];
}

/** A file of letters, which are made when its turn comes: many pages are never held at once. */
interface Written {
  name: string;
  text: () => string;
}

/** More than these are told on several pages. */
const OF_A_PAGE = 1000;

export const titleOfConversation = ({ people }: { people: readonly string[] }): string =>
  people.length === 0 ? 'Notes to oneself' : `With ${people.join(', ')}`;

/** A conversation as files of one folder, in whatever is letters; paths are from there. @param zone whose clock times are told by */
export function writeConversation(
  told: ToldConversation,
  format: Exclude<TakeOutChoices['conversations'], 'pdf'>,
  zone: string,
): Written[] {
  if (format === 'html') return htmlPages(told, zone);
  const { people, said } = told;
  const thread = people.join(', ');
  const records = keyed(
    said.map(({ at, from, text, with: came }) => ({
      thread,
      ...{ at, from: from || 'me', text },
      to: [],
      // From the folder of the conversation, as everything here.
      attachment: came?.path ?? null,
    })),
  );
  const threads = new Map([
    [thread, { name: thread, isGroup: people.length > 1, members: people }],
  ]);
  const text = () => writeExtract(format, records, { ...plainStyle, threads, zone }, null).file;
  return [{ name: `conversation.${format}`, text }];
}

function htmlPages(told: ToldConversation, zone: string): Written[] {
  const title = titleOfConversation(told);
  const count = Math.max(1, Math.ceil(told.said.length / OF_A_PAGE));
  const nameOf = (page: number) => (page === 0 ? 'conversation.html' : `page-${page + 1}.html`);
  return Array.from({ length: count }, (_, page) => {
    const rows = told.said.slice(page * OF_A_PAGE, (page + 1) * OF_A_PAGE);
    const links = [
      ...(page > 0 ? [`<a href="${nameOf(page - 1)}">Earlier</a>`] : []),
      ...(page < count - 1 ? [`<a href="${nameOf(page + 1)}">Later</a>`] : []),
    ];
    const nav = count > 1 ? `<nav>Page ${page + 1} of ${count}. ${links.join(' ')}</nav>` : '';
    const head = `<p>${told.said.length} messages, held in ${escapeHtml(told.sources.join(' and '))}. Times are those of ${escapeHtml(zone)}.</p>`;
    return {
      name: nameOf(page),
      text: () => htmlPage(title, [head, nav, ...articles(rows, told, zone), nav].join('\n')),
    };
  });
}

function* articles(rows: ToldConversation['said'], told: ToldConversation, zone: string) {
  const day = new Intl.DateTimeFormat('en-GB', {
    ...{ weekday: 'long', day: 'numeric', month: 'long', year: 'numeric', timeZone: zone },
  });
  const time = new Intl.DateTimeFormat('en-GB', {
    ...{ hour: '2-digit', minute: '2-digit', timeZone: zone },
  });
  let last = '';
  for (const { at, from, text, source, with: came } of rows) {
    const today = day.format(at);
    if (today !== last) yield `<h2>${today}</h2>`;
    last = today;
    const where = told.sources.length > 1 ? `, ${escapeHtml(source)}` : '';
    yield (
      `<article><p><time datetime="${at.toISOString()}">${time.format(at)}</time>${where}<br><b>${escapeHtml(from || 'The owner')}</b></p>` +
      `<div><p dir="auto">${escapeHtml(text)}</p>${came ? cameWith(came) : ''}</div></article>`
    );
  }
}
