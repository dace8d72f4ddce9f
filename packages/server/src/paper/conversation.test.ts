import { getDocument, OPS } from 'pdfjs-dist/legacy/build/pdf.mjs';
import sharp from 'sharp';
import { expect, test } from 'vitest';
import { conversationPages } from './index.js';

const AT = new Date('2026-03-01T09:00:00Z');
const said = (text: string, more = {}) => ({
  ...{ at: AT, from: 'Ada Birch', text, source: 'Messages', with: null },
  ...more,
});
type Said = Parameters<typeof conversationPages>[0]['said'];

async function pagesOf(all: Said, drawn: Parameters<typeof conversationPages>[2]) {
  const told = { people: ['Ada Birch'], sources: ['Messages'], said: all };
  const pieces: Uint8Array[] = [];
  for await (const piece of conversationPages(told, 'Atlantic/Azores', drawn)) pieces.push(piece);
  return read(Buffer.concat(pieces));
}

/** As another program reads it. */
async function read(bytes: Buffer) {
  const pdf = await getDocument({ data: new Uint8Array(bytes), verbosity: 0 }).promise;
  const texts: string[] = [];
  const places = new Map<string, number>();
  let pictures = 0;
  for (let number = 1; number <= pdf.numPages; number++) {
    const page = await pdf.getPage(number);
    const { items } = await page.getTextContent();
    for (const one of items) {
      if (!('str' in one)) continue;
      texts.push(one.str);
      places.set(one.str, Number(one.transform[4]));
    }
    const { fnArray } = await page.getOperatorList();
    pictures += fnArray.filter((one) => one === OPS.paintImageXObject).length;
  }
  return {
    numPages: pdf.numPages,
    places,
    text: texts.join(' ').replaceAll(/\s+/g, ' '),
    pictures,
  };
}

test('every script is on the page, in the order in which it is read, with its figures as they were written', async () => {
  const { text, places } = await pagesOf(
    [
      said('Shall we meet at the café? Zoë’s 🫖'),
      said('Привет 明天在港口见面吗 สวัสดี'),
      said('שלום, נפגשים מחר ב-10:30 ליד הנמל', { from: '' }),
      said('two\nlines'),
    ],
    () => Promise.resolve(null),
  );
  for (const words of [
    ...['With Ada Birch', 'café?', '🫖', 'Привет', '明天在港口见面吗', '10:30', 'שלום', 'הנמל'],
    ...['The owner:', 'Sunday, 1 March 2026', '08:00', 'Atlantic/Azores'],
  ]) {
    expect(text).toContain(words);
  }
  expect(text).not.toContain('03:01');
  expect([places.get('two'), places.has('two')]).toEqual([places.get('lines'), true]);
});

test('lines of two directions stand as they are read: from the right, with what is from the left in its own order', async () => {
  const { places, text } = await pagesOf(
    [said('שלום (אבא) 10:30 and more דג'), said('see שלום דג now')],
    () => Promise.resolve(null),
  );
  const fromLeft = (...all: string[]) =>
    all.map((word) => [...places].findLast(([one]) => one.includes(word))?.[1] ?? Number.NaN);
  const inHebrew = fromLeft('and more', '10:30', 'אבא');
  const inEnglish = fromLeft('see', 'שלום דג', 'now');
  for (const one of [inHebrew, inEnglish]) {
    expect(one.every(Number.isFinite)).toBe(true);
    expect(one).toEqual(one.toSorted((x, y) => x - y));
  }
  for (const words of ['שלום', 'אבא', 'דג']) expect(text).toContain(words);
});

test('a word without an end is cut where the line ends, and takes no time for that', async () => {
  const { numPages, text } = await pagesOf([said('a'.repeat(40_000))], () => Promise.resolve(null));
  expect(numPages).toBeGreaterThan(5);
  expect(text.match(/a/g)?.length).toBeGreaterThanOrEqual(40_000);
});

test('pictures stand in their place, what is none is named; what is long goes on overleaf', async () => {
  const jpeg = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#579' } })
    .jpeg()
    .toBuffer();
  const { text, pictures, numPages } = await pagesOf(
    [
      said('see', { with: { name: 'a.jpg', path: 'media/a.jpg' } }),
      said('hear', { with: { name: 'b.ogg', path: 'media/b.ogg' } }),
      said('gone', { with: { name: 'c.jpg', path: null } }),
      ...Array.from({ length: 60 }, (_, n) => said(`${n} ${'long'.repeat(60)} end`)),
    ],
    (path) => Promise.resolve(path === 'media/a.jpg' ? { jpeg, width: 40, height: 30 } : null),
  );
  expect(pictures).toBe(1);
  expect(text).toContain('[b.ogg]');
  expect(text).toContain('[c.jpg]');
  expect(text).not.toContain('[a.jpg]');
  expect(numPages).toBeGreaterThan(2);
  expect(text.match(/ end/g)).toHaveLength(60);
});
