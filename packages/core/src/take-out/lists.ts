import Papa from 'papaparse';
import { unarmed } from '../formats/cells.js';
import { writeRecords, mediaTypes } from '../formats/index.js';
import { folded } from '../formats/vcard.js';
import type { Alarm } from '../records/alarm.js';
import type { Call } from '../records/call.js';
import type { Contact } from '../records/contact.js';
import type { HomeScreen } from '../records/home-screen.js';
import type { Measurement } from '../records/measurement.js';
import { titleOf, type Note } from '../records/note.js';
import type { Bookmark, Visit } from '../records/web.js';
import { escapeHtml, htmlPage } from '../extract/markup.js';

/** Moments as files tell them: by a clock that is named in their header. */
export function clockOf(zone: string): (at: Date) => string {
  const format = new Intl.DateTimeFormat('sv-SE', {
    ...{ year: 'numeric', month: '2-digit', day: '2-digit' },
    ...{ hour: '2-digit', minute: '2-digit', second: '2-digit', timeZone: zone },
  });
  return (at) => format.format(at);
}

const csv = (fields: string[], data: (string | number)[][]): string =>
  `${Papa.unparse({ fields, data: data.map((row) => row.map((cell) => (typeof cell === 'string' ? unarmed(cell) : cell))) }, { newline: '\r\n' })}\r\n`;

export function contactsFile(
  contacts: readonly Contact[],
  format: 'vcard-4' | 'vcard-3' | 'csv',
): string {
  if (format === 'vcard-4') {
    const records = { kind: 'contacts' as const, contacts: [...contacts] };
    return new TextDecoder().decode(writeRecords(mediaTypes.vcard, records, ''));
  }
  if (format === 'vcard-3') return contacts.map(card3).join('');
  return csv(
    ['name', 'numbers', 'emails', 'addresses', 'birthday', 'organisation', 'note'],
    contacts.map(({ name, numbers, emails, addresses, birthday, organisation, note }) => [
      ...[name, numbers.join('; '), emails.join('; '), addresses.join('; ')],
      ...[birthday, organisation, note],
    ]),
  );
}

/** RFC 2426. A birthday without a year has no place in it: it is told in the note. */
function card3({
  name,
  numbers,
  emails,
  addresses,
  birthday,
  organisation,
  note,
  picture,
}: Contact): string {
  const escaped = (text: string) =>
    text
      .replace(/[\\,;]/g, '\\$&')
      .replace(/\r\n|\r|\n/g, '\\n')
      .replace(/\p{Surrogate}/gu, '\ufffd');
  const words = name.split(' ');
  const family = words.length > 1 ? (words.at(-1) ?? '') : '';
  const given = words.length > 1 ? words.slice(0, -1).join(' ') : name;
  const isDay = /^\d/.test(birthday);
  const notes = [note, birthday && !isDay ? `Born on ${birthday.slice(2)}` : ''].filter(Boolean);
  return [
    ...['BEGIN:VCARD', 'VERSION:3.0', `N:${escaped(family)};${escaped(given)};;;`],
    `FN:${escaped(name)}`,
    ...numbers.map((number) => `TEL;TYPE=VOICE:${escaped(number)}`),
    ...emails.map((email) => `EMAIL;TYPE=INTERNET:${escaped(email)}`),
    ...addresses.map((address) => `ADR:;;${escaped(address)};;;;`),
    ...(isDay ? [`BDAY:${birthday}`] : []),
    ...(organisation ? [`ORG:${escaped(organisation)}`] : []),
    ...(notes.length > 0 ? [`NOTE:${escaped(notes.join('\n'))}`] : []),
    ...(picture
      ? [
          folded(
            `PHOTO;ENCODING=b;TYPE=${picture.mediaType.slice('image/'.length).toUpperCase()}:${picture.base64}`,
          ),
        ]
      : []),
    ...['END:VCARD', ''],
  ].join('\r\n');
}

export function callsFile(calls: readonly (Call & { name: string })[], zone: string): string {
  const clock = clockOf(zone);
  return csv(
    [`when (${zone})`, 'kind', 'name', 'number', 'seconds'],
    calls.map(({ at, kind, name, number, seconds }) => [clock(at), kind, name, number, seconds]),
  );
}

export function visitsFile(visits: readonly Visit[], zone: string): string {
  const clock = clockOf(zone);
  return csv(
    [`when (${zone})`, 'page'],
    visits.map(({ at, page }) => [clock(at), page]),
  );
}

export function healthFile(measurements: readonly Measurement[], zone: string): string {
  const clock = clockOf(zone);
  return csv(
    [`when (${zone})`, 'what', 'value', 'unit'],
    measurements.map(({ at, what, value, unit }) => [clock(at), what, value, unit]),
  );
}

export const alarmsFile = (alarms: readonly Alarm[]): string =>
  csv(
    ['at', 'days', 'for'],
    alarms.map(({ time, days, label }) => [time, days, label]),
  );

/** The file of bookmarks that browsers read: a list of definitions (HTML), a link in each. */
export const bookmarksFile = (bookmarks: readonly Bookmark[]): string =>
  `<!doctype html>\n<meta charset="utf-8">\n<title>Bookmarks</title>\n<h1>Bookmarks</h1>\n<dl><p>\n${bookmarks
    // What is no address of the web does something else when it is pressed.
    .map(({ name, page }) =>
      /^https?:/i.test(page)
        ? `<dt><a href="${escapeHtml(page)}">${escapeHtml(name)}</a>\n`
        : `<dt>${escapeHtml(`${name} ${page}`)}\n`,
    )
    .join('')}</dl><p>\n`;

/** All notes on one page. */
export const notesPage = (notes: readonly (Note & { at: Date })[], zone: string): string => {
  const clock = clockOf(zone);
  return htmlPage(
    'Notes',
    `<p>Times are those of ${escapeHtml(zone)}.</p>\n${notes
      .map(
        (note) =>
          `<h2>${escapeHtml(titleOf(note))}</h2>\n<p>${clock(note.at)}</p>\n<p dir="auto">${escapeHtml(note.text)}</p>`,
      )
      .join('\n')}`,
  );
};

export const homeScreenFile = (screens: readonly HomeScreen[]): string =>
  screens
    .map(({ pages, dock }) =>
      [
        ...pages.map((names, n) => `Page ${n + 1}: ${names.join(', ')}`),
        `On every page: ${dock.join(', ')}`,
        '',
      ].join('\n'),
    )
    .join('\n');
