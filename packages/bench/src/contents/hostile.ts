import type { NewFile } from './generate.js';
import { moment, type Life } from './life.js';

/** What a reader must live with: items that are damaged, that say they are something else, or that mean harm. */
export function* hostile(life: Life): Generator<NewFile> {
  const file = (path: string, contents: string | Uint8Array): NewFile => ({
    ...{ path, contents, modified: moment(life) },
  });
  const script = '<script>document.title="gone"</script><img src=x onerror="document.title=1">';
  yield file('notes/9001.md', `# ${script}\n\n${script}\n[here](javascript:alert(1))\n`);
  yield file('notes/9002.md', 'A very long word: ' + 'x'.repeat(5000));
  yield file('contacts/9001-damaged.vcf', 'BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Half a c');
  yield file(
    'contacts/9002-backwards.vcf',
    'BEGIN:VCARD\r\nVERSION:3.0\r\nFN:\u202egnp.drowssap\u202c =cmd|A1\r\nTEL:+44 7700 900999\r\nEND:VCARD\r\n',
  );
  yield file('calendar/9001-damaged.ics', 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\n');
  yield file(
    'calendar/9002-for-ever.ics',
    'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:9002\r\nDTSTART:20260101T000000Z\r\nRRULE:FREQ=SECONDLY\r\nSUMMARY:Every second\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n',
  );
  yield file('tasks/9001-damaged.ics', 'BEGIN:VCALENDAR\r\nBEGIN:VTODO\r\nDUE:never\r\n');
  yield file('photographs/2026/01/no-picture.jpg', 'This is no picture.');
  yield file('videos/2026/no-video.webm', 'This is no video.');
  yield file('voice-notes/900.wav', 'RIFF');
  yield file('documents/page.html', `<!doctype html><title>page</title>${script}`);
  yield file('documents/drawing.svg', `<svg xmlns="http://www.w3.org/2000/svg">${script}</svg>`);
  yield file('health/damaged.csv', 'at,what,value,unit\r\nyesterday,pulse,many,\r\n');
  yield file('alarms/damaged.json', '[{"at":"25:99"}]');
  yield file('messages/thread-900/2026-01.jsonl', '{"at":"2026-01-01T10:00:00Z","from":"me"\n');
}
