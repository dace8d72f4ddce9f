import { cameWith, escapeHtml, htmlPage } from './markup.js';

/** A record as it stands on a page. */
export interface PageRow {
  key: string;
  /** Its moment, as it was asked for. */
  at: string;
  thread: string;
  /** Who is told to have said it. */
  who: string;
  from: string;
  to: string;
  text: string;
  /** The name of what came with it, and where it lies from the page: null where it was not taken. */
  with: { name: string; path: string | null } | null;
}

interface Article {
  key: string;
  thread: string;
  html: string;
}

/** A record's moment in ms since 1970: its key begins with it. */
const momentOf = (key: string): number => Number.parseInt(key.split('-')[0] ?? '', 36);

const entities: Record<string, string> = {
  ...{ '&amp;': '&', '&lt;': '<', '&gt;': '>', '&quot;': '"', '&apos;': "'", '&#39;': "'" },
};
/** Letters as they were before they were written into a file. */
export const unescaped = (text: string) =>
  text.replace(/&(?:amp|lt|gt|quot|apos|#39);/g, (entity) => entities[entity] ?? entity);

const articles = /<article data-key="([^"]*)" data-thread="([^"]*)"[^]*?<\/article>/g;
/** As version 1 wrote them: all in one table. */
const tableRows =
  /<tr data-key="([^"]*)"><td>([^]*?)<\/td><td>([^]*?)<\/td><td>([^]*?)<\/td><td>([^]*?)<\/td><td>([^]*?)<\/td><td>([^]*?)<\/td><\/tr>/g;

/** What stands on a page already. @throws Error where it is no such page */
export function articlesOn(file: string): Article[] {
  if (!file.startsWith('<!doctype html>') || !file.trimEnd().endsWith('</html>'))
    throw new Error('no such file');
  const now = [...file.matchAll(articles)].map(([html, key = '', thread = '']) => ({
    ...{ key: unescaped(key), thread: unescaped(thread), html },
  }));
  const before = [...file.matchAll(tableRows)].map(([, key = '', ...cells]) => {
    const [at = '', thread = '', from = '', to = '', text = '', came = ''] = cells.map(unescaped);
    const name = came.slice(came.lastIndexOf('/') + 1);
    const row = { key: unescaped(key), at, thread, who: from, from, to, text };
    return articleOf({ ...row, with: came === '' ? null : { name, path: null } });
  });
  if (now.length + before.length === 0 && !file.includes(MARK)) throw new Error('no such file');
  return [...before, ...now];
}

/** Says of an empty page what it is. */
const MARK = '<nav aria-label="Conversations">';

export function articleOf(row: PageRow): Article {
  const { key, at, thread, who, from, to, text, with: came } = row;
  const moment = new Date(momentOf(key)).toISOString();
  const html =
    `<article data-key="${escapeHtml(key)}" data-thread="${escapeHtml(thread)}" data-from="${escapeHtml(from)}" data-to="${escapeHtml(to)}">` +
    `<p><time datetime="${moment}">${escapeHtml(at)}</time><br><b>${escapeHtml(who)}</b></p>` +
    `<div><p dir="auto">${escapeHtml(text)}</p>${came ? cameWith(came) : ''}</div></article>`;
  return { key, thread, html };
}

/** All of it as one page: a part for each conversation, that with the newest word first, each in the order of time. @param zone whose days they are */
export function pageOf(title: string, all: readonly Article[], zone: string): string {
  const day = new Intl.DateTimeFormat('en-GB', {
    ...{ weekday: 'long', day: 'numeric', month: 'long', year: 'numeric', timeZone: zone },
  });
  const threads = new Map<string, Article[]>();
  for (const one of [...all].sort(inTime)) {
    const thread = threads.get(one.thread) ?? [];
    threads.set(one.thread, thread);
    thread.push(one);
  }
  const newest = (some: readonly Article[]) => momentOf(some.at(-1)?.key ?? '');
  const parts = [...threads].sort(([, a], [, b]) => newest(b) - newest(a));
  const links = parts.map(
    ([thread, { length }], n) =>
      `<a href="#c${n + 1}">${escapeHtml(thread)}</a> (${length.toLocaleString('en')})`,
  );
  const sections = parts.map(([thread, some], n) => {
    let last = '';
    const lines = some.map(({ key, html }) => {
      const today = day.format(momentOf(key));
      const head = today === last ? '' : `<h3>${today}</h3>\n`;
      last = today;
      return `${head}${html}\n`;
    });
    return `<section id="c${n + 1}">\n<h2>${escapeHtml(thread)}</h2>\n${lines.join('')}</section>\n`;
  });
  const head = `<p>Times are those of ${escapeHtml(zone)}.</p>`;
  return htmlPage(title, `${head}\n${MARK}${links.join('<br>')}</nav>\n${sections.join('')}`);
}

const inTime = (a: Article, b: Article): number =>
  momentOf(a.key) - momentOf(b.key) || (a.key < b.key ? -1 : 1);
