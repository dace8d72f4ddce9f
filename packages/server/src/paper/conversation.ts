import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { setImmediate as othersFirst } from 'node:timers/promises';
import { titleOfConversation, type ToldConversation } from '@bright-cellar/core/take-out';
import bidiFactory, { type Bidi } from 'bidi-js';
import { create, type Font } from 'fontkit';
import { decompress } from 'wawoff2';
import { A4, FONTS, MM, newPaper } from './paper.js';

const require = createRequire(import.meta.url);
const fileOf = (of: string, path: string) =>
  join(dirname(require.resolve(`${of}/package.json`)), path);

/** Fonts by which a letter is drawn: the first that knows it. The second knows the letters of nearly all scripts, the third pictographs. */
const FACES: Record<string, string> = {
  text: join(FONTS, 'DejaVuSans.ttf'),
  scripts: fileOf('@fontsource/unifont', 'files/unifont-latin-400-normal.woff2'),
  signs: fileOf('@fontsource/noto-emoji', 'files/noto-emoji-emoji-400-normal.woff2'),
};
/** Drawn where none knows a letter. */
const UNKNOWN = '\u25a1';
const LEFT = 20 * MM;
const TIMES = 24 * MM;
const WIDTH = A4.width - 2 * LEFT;
const BOTTOM = A4.height - 18 * MM;
const TOP = 18 * MM;
const PICTURE = 62 * MM;
const SIZE = 10;
const LINE = SIZE * 1.35;
const SAID: Place = { x: LEFT + TIMES, width: WIDTH - TIMES, size: SIZE };
const TITLE: Place = { x: LEFT, width: WIDTH, size: 15 };
const SOFT = '#5a544b';
/** So many messages are set at a stretch. */
const AT_ONCE = 40;

/** A picture, as it is set; pixels. */
export interface DrawnPicture {
  jpeg: Buffer;
  width: number;
  height: number;
}

/** Where lines are set, and how large. Points. */
interface Place {
  x: number;
  width: number;
  size: number;
}

/** Letters of one font and one direction, as they stand beside others from left to right. */
interface Run {
  face: string;
  /** In the order in which it is read. */
  text: string;
  fromRight: boolean;
}

/** A font, and its file (ISO/IEC 14496-22). */
interface Face {
  face: string;
  file: Buffer;
  font: Font;
}

let opened: Promise<Face[]> | null = null;
/** Opened once: unpacking the second takes a second. What went wrong is tried again by whoever asks next. */
const openFaces = (): Promise<Face[]> =>
  (opened ??= readFaces().catch((error: unknown) => {
    opened = null;
    throw error;
  }));

/** One after the other: what was unpacked lies in memory that the next unpacking takes, until it is copied out of it. */
async function readFaces(): Promise<Face[]> {
  const faces: Face[] = [];
  for (const [face, path] of Object.entries(FACES)) {
    const bytes = await readFile(path);
    const file = path.endsWith('.woff2') ? Buffer.from(await decompress(bytes)) : bytes;
    faces.push({ face, file, font: create(file) as Font });
  }
  return faces;
}

// Its types are those of another kind of module than it is.
const bidi = (bidiFactory as unknown as () => Bidi)();

/** What joins pictographs or only changes how a letter looks is not drawn by itself; what no font has is a blank. */
const drawable = (text: string): string =>
  text
    .replaceAll(/[\ufe00-\ufe0f\u200b-\u200d\u2060]/gu, '')
    .replaceAll(/[^\P{C}\u200e\u200f\u202a-\u202e\u2066-\u2069]/gu, ' ');

/** Sets words into lines, and lines onto pages. */
class Setting {
  readonly #paper: PDFKit.PDFDocument;
  readonly #faces: readonly Face[];
  /** By which font a letter is drawn, and how wide it is for each point of its size; a letter is measured once. */
  readonly #letters = new Map<string, { face: string | null; width: number }>();
  y = TOP;

  constructor(paper: PDFKit.PDFDocument, faces: readonly Face[]) {
    this.#paper = paper;
    this.#faces = faces;
  }

  room(height: number): void {
    if (this.y + height <= BOTTOM) return;
    this.#paper.addPage();
    this.y = TOP;
  }

  #letter(letter: string) {
    const known = this.#letters.get(letter);
    if (known) return known;
    const code = letter.codePointAt(0) ?? 0;
    const face = this.#faces.find(({ font }) => font.hasGlyphForCodePoint(code))?.face ?? null;
    this.#paper.font(face ?? 'text').fontSize(SIZE);
    const width = this.#paper.widthOfString(face === null ? UNKNOWN : letter) / SIZE;
    const measured = { face, width };
    this.#letters.set(letter, measured);
    return measured;
  }

  /** Every line of a text, one below the other. */
  text(text: string, place: Place = SAID): void {
    for (const line of text.split(/\r\n|\r|\n/).map(drawable)) {
      const isFromRight = (bidi.getEmbeddingLevels(line).paragraphs[0]?.level ?? 0) % 2 === 1;
      for (const part of this.#broken(line, place)) this.#line(part, isFromRight, place);
    }
  }

  /** A line as it is set in several; a word that is wider than one, or of a script without spaces, is cut where one ends. */
  *#broken(line: string, { width, size }: Place): Generator<string> {
    let part = '';
    let wide = 0;
    for (const word of line.split(/(?<=\s)(?=\S)/)) {
      const letters = Array.from(word);
      const widths = letters.map((letter) => this.#letter(letter).width * size);
      const whole = widths.reduce((sum, one) => sum + one, 0);
      if (wide > 0 && wide + whole > width) {
        yield part;
        [part, wide] = ['', 0];
      }
      for (const [n, letter] of letters.entries()) {
        const one = widths[n] ?? 0;
        if (wide > 0 && wide + one > width && /\S/.test(letter)) {
          yield part;
          [part, wide] = ['', 0];
        }
        part += letter;
        wide += one;
      }
    }
    yield part;
  }

  #line(line: string, isFromRight: boolean, { x, width, size }: Place): void {
    const height = size * 1.35;
    this.room(height);
    const runs = this.#runs(line.trimEnd(), isFromRight).map((run) => {
      // A run from the right is turned as a whole: without features its words would be turned one by one.
      const options = run.fromRight ? { features: [] } : {};
      const wide = this.#paper.font(run.face).fontSize(size).widthOfString(run.text, options);
      return { ...run, options, wide };
    });
    const all = runs.reduce((sum, { wide }) => sum + wide, 0);
    let at = isFromRight ? x + width - all : x;
    for (const { face, text, options, wide } of runs) {
      this.#paper.font(face).fontSize(size).fillColor('black');
      this.#paper.text(text, at, this.y, { ...options, lineBreak: false });
      at += wide;
    }
    this.y += height;
  }

  /** The runs of a line as they stand from left to right (Unicode Standard Annex 9). */
  #runs(line: string, isFromRight: boolean): Run[] {
    const levels = bidi.getEmbeddingLevels(line, isFromRight ? 'rtl' : 'ltr');
    const mirrored = bidi.getMirroredCharactersMap(line, levels.levels);
    const faces: string[] = [];
    const drawn: string[] = [];
    for (const letter of line) {
      const { face } = this.#letter(letter);
      const units = face === null ? [UNKNOWN] : letter.split('');
      for (let unit = 0; unit < letter.length; unit++) {
        drawn.push(mirrored.get(drawn.length) ?? units[unit] ?? '');
        faces.push(face ?? 'text');
      }
    }
    const runs: { face: string; level: number; from: number; to: number }[] = [];
    for (const at of bidi.getReorderedIndices(line, levels)) {
      const [face, level] = [faces[at] ?? 'text', levels.levels[at] ?? 0];
      const last = runs.at(-1);
      if (last?.face === face && last.level === level && at === last.to + 1) last.to = at;
      else if (last?.face === face && last.level === level && at === last.from - 1) last.from = at;
      else runs.push({ face, level, from: at, to: at });
    }
    return runs.map(({ face, level, from, to }) => {
      const text = drawn.slice(from, to + 1).join('');
      const isTurned = level % 2 === 1;
      // Signs alone have no script by which the font would turn them.
      const isSigns = isTurned && !/\p{L}/u.test(text);
      return {
        face,
        text: isSigns ? Array.from(text).toReversed().join('') : text,
        fromRight: isTurned && !isSigns,
      };
    });
  }

  picture({ jpeg, width, height: high }: DrawnPicture): void {
    const height = high * Math.min(PICTURE / width, PICTURE / high);
    this.room(height + 2 * MM);
    this.#paper.image(jpeg, SAID.x, this.y + MM, { height });
    this.y += height + 2 * MM;
  }
}

/**
 * A conversation as pages to print, in the order of time, with its pictures in place: PDF (ISO 32000), told as it is made.
 * @param zone whose clock times are told by
 * @param drawn a picture that came along, by its path in the package; null for what is none
 */
export async function* conversationPages(
  told: ToldConversation,
  zone: string,
  drawn: (path: string) => Promise<DrawnPicture | null>,
): AsyncGenerator<Uint8Array> {
  const title = titleOfConversation(told);
  const paper = newPaper(A4, title);
  const faces = await openFaces();
  for (const { face, file } of faces) paper.registerFont(face, file);
  const day = new Intl.DateTimeFormat('en-GB', {
    ...{ weekday: 'long', day: 'numeric', month: 'long', year: 'numeric', timeZone: zone },
  });
  const time = new Intl.DateTimeFormat('en-GB', {
    ...{ hour: '2-digit', minute: '2-digit', timeZone: zone },
  });
  const set = new Setting(paper, faces);
  const words = (text: string, size: number, soft = false) => {
    paper
      .font(soft ? 'text' : 'strong')
      .fontSize(size)
      .fillColor(soft ? SOFT : 'black');
    paper.text(text, LEFT, set.y, { width: WIDTH });
    set.y = paper.y + 1.5 * MM;
  };
  set.text(title, TITLE);
  words(
    `${told.said.length.toLocaleString('en')} messages, held in ${told.sources.join(' and ')}. Times are those of ${zone}.`,
    8.5,
    true,
  );
  let last = '';
  for (const [n, { at, from, text, source, with: came }] of told.said.entries()) {
    const today = day.format(at);
    if (today !== last) {
      set.room(22 * MM);
      set.y += 4 * MM;
      words(today, 11);
      last = today;
    }
    set.room(2 * LINE);
    paper.font('text').fontSize(8).fillColor(SOFT);
    const where = told.sources.length > 1 ? `${time.format(at)}, ${source}` : time.format(at);
    paper.text(where, LEFT, set.y + 1.5, {
      width: TIMES - 2 * MM,
      height: 2 * LINE,
      ellipsis: true,
    });
    set.text(`${from || 'The owner'}:`);
    if (text !== '') set.text(text);
    const picture = came?.path ? await drawn(came.path) : null;
    if (picture) set.picture(picture);
    else if (came) set.text(`[${came.name}]`);
    set.y += 1.6 * MM;
    if (n % AT_ONCE === AT_ONCE - 1) await othersFirst();
    yield* ready(paper);
  }
  paper.end();
  for await (const piece of paper) yield piece as Buffer;
}

function* ready(paper: PDFKit.PDFDocument): Generator<Buffer> {
  for (;;) {
    const piece = paper.read() as Buffer | null;
    if (piece === null) return;
    yield piece;
  }
}
