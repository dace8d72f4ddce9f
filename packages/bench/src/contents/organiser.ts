import ical, { ICalAlarmType, ICalEventRepeatingFreq } from 'ical-generator';
import VCard from 'vcard-creator';
import { moment, paragraphs, sentence, type Life, type Person } from './life.js';
import type { NewFile } from './generate.js';
import type { Darkroom } from './photographs.js';

function vcard(person: Person, number: number, picture: Buffer | null): string {
  const card = new VCard();
  card.addName({ familyName: person.family, givenName: person.given });
  card.addPhoneNumber({ number: person.phone, type: ['cell'] });
  card.addEmail({ address: person.email });
  if (person.birthday) card.addBirthday(person.birthday);
  if (number % 3 === 0) {
    card.addPhoneNumber({
      number: `+44 7700 900${String(600 + (number % 400)).padStart(3, '0')}`,
      type: ['home'],
    });
  }
  if (number % 4 === 0) {
    card.addAddress({
      street: `${number} Kettle Ford`,
      locality: 'Harrowmere',
      postalCode: `HM${number % 90}`,
    });
  }
  if (number % 5 === 0) card.addCompany({ name: 'Harrowmere Ferries' });
  if (number % 6 === 0) card.addNote('Met at the harbour fair; rings after six.');
  if (picture) card.addPhoto({ image: picture.toString('base64'), mime: 'JPEG' });
  // Without this the library stamps the present moment; contents must come out the same every time.
  card.addRevision(new Date('2026-01-01T00:00:00Z'));
  return card.toString();
}

/** Every fourth with a picture. */
export function* contacts(life: Life, darkroom: Darkroom): Generator<NewFile> {
  for (const [i, person] of life.people.entries()) {
    const drawn = i % 4 === 1 ? darkroom.portrait(person.email) : Promise.resolve(null);
    yield {
      path: `contacts/${String(i + 1).padStart(4, '0')}-${person.given}-${person.family}.vcf`,
      contents: drawn.then((picture) => Buffer.from(vcard(person, i + 1, picture))),
      modified: moment(life),
    };
  }
}

export function* calendar(life: Life, count: number): Generator<NewFile> {
  for (let i = 1; i <= count; i++) {
    const start = moment(life);
    const with_ = life.chance.pick(life.people);
    const place = life.chance.pick(life.places);
    const event = ical({ prodId: '//made-up//calendar//EN' });
    const end = new Date(start.getTime() + life.chance.whole(1, 6) * 1_800_000);
    // Some are whole days, some come every week but for once, some ring before, some are on the clocks of the islands.
    const isWholeDay = i % 9 === 4;
    const isWeekly = i % 11 === 2;
    const created = event.createEvent({
      id: `event-${i}-${life.owner.given.toLowerCase()}@example.org`,
      ...{ start, end, stamp: start, allDay: isWholeDay },
      summary: isWeekly ? `Choir with ${with_.given}` : `${with_.given} at ${place.name}`,
      description: i % 6 === 1 ? sentence(life) : null,
      location: { title: place.name, geo: { lat: place.latitude, lon: place.longitude } },
      ...(i % 7 === 3 ? { timezone: 'Atlantic/Azores' } : {}),
    });
    if (isWeekly) {
      const once = new Date(start.getTime() + 7 * 86_400_000);
      created.repeating({ freq: ICalEventRepeatingFreq.WEEKLY, count: 20, exclude: once });
    }
    if (i % 5 === 0) {
      created.createAlarm({ type: ICalAlarmType.display, trigger: 900, description: 'Soon' });
    }
    yield {
      path: `calendar/${start.toISOString().slice(0, 10)}-${String(i).padStart(4, '0')}.ics`,
      contents: event.toString(),
      modified: start,
    };
  }
}

export function* notes(life: Life, count: number): Generator<NewFile> {
  for (let i = 1; i <= count; i++) {
    const modified = moment(life);
    yield {
      path: `notes/${String(i).padStart(4, '0')}.md`,
      contents: `# ${sentence(life)}\n\n${paragraphs(life, life.chance.whole(1, 5))}\n`,
      modified,
    };
  }
}

export function* calls(life: Life, months: readonly string[]): Generator<NewFile> {
  for (const month of months) {
    const rows = Array.from({ length: life.chance.whole(20, 90) }, () => {
      const day = String(life.chance.whole(1, 28)).padStart(2, '0');
      const time = `${String(life.chance.whole(7, 22)).padStart(2, '0')}:${String(life.chance.whole(0, 59)).padStart(2, '0')}`;
      const kind = life.chance.pick(['incoming', 'outgoing', 'missed']);
      const seconds = kind === 'missed' ? 0 : life.chance.whole(5, 1800);
      return `${month}-${day}T${time}Z,${kind},${life.chance.pick(life.people).phone},${seconds}`;
    }).sort();
    yield {
      path: `calls/${month}.csv`,
      contents: `at,kind,number,seconds\n${rows.join('\n')}\n`,
      modified: new Date(`${month}-28T23:00:00Z`),
    };
  }
}
