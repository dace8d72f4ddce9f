import quotedPrintable from 'quoted-printable';
import type { NewFile } from './generate.js';
import type { ContentsSize } from './sizes.js';
import { moment, monthsOf, sentence, type Life, type Person } from './life.js';
import { mediaTypes } from '@bright-cellar/core/formats';
import { calls } from './organiser.js';
import { tasks } from './tasks.js';

/** A handset's texts are in an old eight-bit encoding, ISO 8859-1; what it has no letter for becomes `?`. */
function latin(text: string): Buffer {
  return Buffer.from(text.replace(/’/g, "'").replace(/[^\t\r\n\u0020-\u00ff]/gu, '?'), 'latin1');
}

/** One property whose value is quoted-printable (RFC 2045) in the handset's encoding. */
function quoted(name: string, value: string): string {
  return `${name};CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:${quotedPrintable.encode(latin(value).toString('latin1'))}`;
}

/** A vCard 2.1 (versit, 1996), as old handsets write them. */
function vcard21(person: Person): Buffer {
  return latin(
    [
      'BEGIN:VCARD',
      'VERSION:2.1',
      quoted('N', `${person.family};${person.given}`),
      `TEL;CELL:${person.phone}`,
      quoted('NOTE', `Né à l’écluse, ${person.family}`),
      'END:VCARD',
      '',
    ].join('\r\n'),
  );
}

/** A vCalendar 1.0 entry (versit, 1996). */
function vcalendar(start: Date, title: string): Buffer {
  const stamp = (at: Date) => at.toISOString().replace(/[-:]|\.\d+/g, '');
  return latin(
    [
      'BEGIN:VCALENDAR',
      'VERSION:1.0',
      'BEGIN:VEVENT',
      `DTSTART:${stamp(start)}`,
      `DTEND:${stamp(new Date(start.getTime() + 3_600_000))}`,
      quoted('SUMMARY', title),
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n'),
  );
}

/** A keyboard handset: named record databases, one file a record. */
export function* databases(life: Life, size: ContentsSize): Generator<NewFile> {
  const number = (n: number) => String(n).padStart(4, '0');
  for (const [i, person] of life.people.entries()) {
    yield {
      path: `contacts/NamesDB/${number(i + 1)}.vcf`,
      contents: vcard21(person),
      modified: moment(life),
    };
  }
  for (let i = 1; i <= size.others * 2; i++) {
    const at = moment(life);
    const title = `${life.chance.pick(life.people).given}: ${sentence(life)}`;
    yield {
      path: `calendar/DatesDB/${number(i)}.vcs`,
      contents: vcalendar(at, title),
      modified: at,
    };
  }
  for (let i = 1; i <= size.others; i++) {
    yield {
      path: `notes/MemosDB/${number(i)}.txt`,
      contents: latin(`${sentence(life)} Déjà vu.\r\n`),
      modified: moment(life),
    };
  }
  for (let i = 1; i <= size.others * 6; i++) {
    const at = moment(life);
    const { phone } = life.chance.pick(life.people);
    const from = life.chance.happens(0.5) ? `me>${phone}` : phone;
    yield {
      path: `messages/TextsDB/${number(i)}.txt`,
      contents: latin(`${at.toISOString()}\t${from}\t${sentence(life)}\r\n`),
      modified: at,
    };
  }
  for (const call of calls(life, monthsOf(life))) {
    yield { ...call, path: call.path.replace('calls/', 'calls/CallsDB/') };
  }
  yield {
    path: 'settings/ProfilesDB/profiles.txt',
    contents: latin('Ringing\t5\r\nMeeting\t1\r\n'),
    modified: moment(life),
  };
  const path = (n: string) => `tasks/TodosDB/${n}.vcs`;
  yield* tasks(life, size.others, mediaTypes.oldTaskList, path);
}
