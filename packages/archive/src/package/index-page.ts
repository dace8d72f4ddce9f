import {
  dataClasses,
  formatBytes,
  formatCount,
  osVersionRead,
  readableName,
  type DataClass,
} from '@bright-cellar/core';
import type { BackupSummary } from '../open/backup-list.js';
import type { Listed } from '../open/open-archive.js';

/** The folder of a package that holds the backup's items. */
export const CONTENTS = 'contents';

const escape = (text: string) =>
  text.replaceAll(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`);

/** A link that works for every name; each part of the path is encoded by itself. */
const hrefOf = (path: string) =>
  escape([CONTENTS, ...path.split('/')].map((part) => encodeURIComponent(part)).join('/'));

const style = `
body{font:16px/1.5 system-ui,sans-serif;max-width:70rem;margin:2rem auto;padding:0 1rem;color:#222;background:#fff}
table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.2rem .6rem;border-bottom:1px solid #ddd;vertical-align:top}
td.n,th.n{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap}td.p{word-break:break-all}code{word-break:break-all}
@media(prefers-color-scheme:dark){body{color:#ddd;background:#1b1b1b}a{color:#9cf}td,th{border-color:#444}}`;

/**
 * What a package's holder reads first: what is in it, and a row for every item. Comes in pieces, so that
 * half a million rows need no memory.
 */
export async function* indexPage(
  { header, end }: BackupSummary,
  listed: AsyncIterable<Listed> | Iterable<Listed>,
): AsyncGenerator<Buffer> {
  const { device } = header;
  const title = device ? device.name : header.label || 'Backup';
  const facts: [string, string][] = [
    ['Taken', header.takenAt],
    ...(header.ticket ? [['Ticket', header.ticket] as [string, string]] : []),
    ...(device
      ? [
          ['Device', `${device.familyName} ${device.model}, serial ${device.serial}`] as [
            string,
            string,
          ],
          ['System', osVersionRead(`${device.osName} ${device.osVersion}`.trim())] as [
            string,
            string,
          ],
        ]
      : []),
    ['Items', `${formatCount(end.items)}, ${formatBytes(end.bytes)}`],
    ['Not taken', formatCount(end.failed)],
  ];
  yield Buffer.from(
    `<!doctype html><html lang="en"><meta charset="utf-8"><title>${escape(title)}</title><style>${style}</style>` +
      `<h1>${escape(title)}</h1><table>${facts
        .map(([label, value]) => `<tr><th>${label}</th><td>${escape(value)}</td></tr>`)
        .join('')}</table>` +
      `<p>Every file lies in the folder <code>${CONTENTS}</code> under its original name. To check them all: <code>b2sum -c checksums.b2</code></p>` +
      '<table><thead><tr><th>Kind</th><th>Name</th><th>Changed</th><th class="n">Bytes</th></tr></thead><tbody>\n',
  );
  let rows = '';
  for await (const entry of listed) {
    rows += entry.type === 'item' ? itemRow(entry.item) : failedRow(entry.failed);
    if (rows.length > 64_000) {
      yield Buffer.from(rows);
      rows = '';
    }
  }
  yield Buffer.from(`${rows}</tbody></table></html>\n`);
}

const labelOf = (dataClass: DataClass) => escape(dataClasses[dataClass]);

function itemRow(item: Extract<Listed, { type: 'item' }>['item']): string {
  const name = escape(readableName(item.path));
  const cell =
    item.kind === 'file' ? `<a href="${hrefOf(readableName(item.path))}">${name}</a>` : name;
  return `<tr><td>${labelOf(item.class)}</td><td class="p">${cell}</td><td>${item.modified.slice(0, 19).replace('T', ' ')}</td><td class="n">${item.bytes}</td></tr>\n`;
}

function failedRow({
  class: dataClass,
  path,
  reason,
}: Extract<Listed, { type: 'failed' }>['failed']) {
  return `<tr><td>${labelOf(dataClass)}</td><td class="p">${escape(readableName(path))}</td><td>not taken: ${escape(reason)}</td><td class="n"></td></tr>\n`;
}
