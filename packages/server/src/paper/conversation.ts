import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { setImmediate as othersFirst } from 'node:timers/promises';
import { titleOfConversation, type ToldConversation } from '@bright-cellar/core/take-out';
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
const TEXT = { x: LEFT + TIMES, width: WIDTH - TIMES };
const BOTTOM = A4.height - 18 * MM;
const TOP = 18 * MM;
const PICTURE = 62 * MM;
const SIZE = 10;
const LINE = SIZE * 1.35;
const SOFT = '#5a544b';
/** So many messages are set at a stretch. */
const AT_ONCE = 40;

/** A picture, as it is set; pixels. */
export interface DrawnPicture {
  jpeg: Buffer;
  width: number;
  height: number;
}

/** Letters of one font, one after the other. */
interface Run {
  face: string;
  text: string;
  fromRight: boolean;
}

/** A word as it is set: its runs, each with how wide it is. Points. */
interface Word {
  runs: (Run & { width: number })[];
  width: number;
  /** Null for what stands as all around it does. */
  fromRight: boolean | null;
}

/** A font, and its file (ISO/IEC 14496-22). */
interface Face {
  face: string;
  file: Buffer;
  font: Font;
}

let opened: Promise<Face[]> | null = null;
/** Opened once: unpacking the second takes a second. */
const openFaces = (): Promise<Face[]> =>
  (opened ??= Promise.all(
    Object.entries(FACES).map(async ([face, path]) => {
      const bytes = await readFile(path);
      const file = path.endsWith('.woff2') ? Buffer.from(await decompress(bytes)) : bytes;
      return { face, file, font: create(file) as Font };
    }),
  ));

/** What joins pictographs or only changes how a letter looks: not drawn by itself. */
const isMark = (letter: string): boolean =>
  /^[\ufe00-\ufe0f\u200b-\u200f\u2060-\u2069]$/u.test(letter);

const FROM_RIGHT =
  /^[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}]$/u;
/** Written from right to left; null for what takes the direction of what stands before it. Figures are read from the left everywhere. */
const isFromRight = (letter: string): boolean | null =>
  FROM_RIGHT.test(letter) ? true : /^[\p{L}\p{N}]$/u.test(letter) ? false : null;

/** By its first letter; null where it has none. */
function directionOf(text: string): boolean | null {
  for (const letter of text) {
    const fromRight = /^\p{N}$/u.test(letter) ? null : isFromRight(letter);
    if (fromRight !== null) return fromRight;
  }
  return null;
}

/** A text as runs of letters of one font and one direction each, in the order in which they are read. */
function runsOf(text: string, faces: readonly Face[]): Run[] {
  const runs: Run[] = [];
  for (const letter of text.replace(/\p{C}/gu, (one) => (isMark(one) ? one : ' '))) {
    if (isMark(letter)) continue;
    const code = letter.codePointAt(0) ?? 0;
    const last = runs.at(-1);
    const known = faces.filter(({ font }) => font.hasGlyphForCodePoint(code));
    const { face } = known.find((one) => one.face === 'text' || one.face === last?.face) ??
      known[0] ?? { face: 'text' };
    const drawn = known.length > 0 ? letter : UNKNOWN;
    const fromRight = isFromRight(letter) ?? last?.fromRight ?? false;
    if (last?.face === face && last.fromRight === fromRight) last.text += drawn;
    else runs.push({ face, text: drawn, fromRight });
  }
  return runs;
}

/**
 * Things as they stand on paper from left to right: those that are read against the direction of the line are in an order of their
 * own. That is what the bidirectional algorithm (Unicode UAX 9) does with one level, which is what people write.
 */
function inSight<T>(read: readonly T[], fromRight: boolean, isAgainst: (one: T) => boolean): T[] {
  const seen = fromRight ? read.toReversed() : [...read];
  for (let from = 0; from < seen.length; from++) {
    let to = from;
    while (to < seen.length && isAgainst(seen[to] as T)) to += 1;
    if (to - from > 1) seen.splice(from, to - from, ...seen.slice(from, to).toReversed());
    from = Math.max(from, to);
  }
  return seen;
}

/** Sets words into lines, and lines onto pages. */
class Setting {
  readonly #paper: PDFKit.PDFDocument;
  readonly #faces: readonly Face[];
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

  #wordOf(text: string): Word {
    const runs = runsOf(text, this.#faces).map((run) => ({
      ...run,
      width: this.#paper.font(run.face).fontSize(SIZE).widthOfString(run.text),
    }));
    const width = runs.reduce((sum, run) => sum + run.width, 0);
    return { runs, width, fromRight: directionOf(text) };
  }

  /** Every line of a text, one below the other. */
  text(text: string): void {
    for (const line of text.split(/\r\n|\r|\n/)) this.#line(line);
  }

  #line(line: string): void {
    const space = this.#paper.font('text').fontSize(SIZE).widthOfString(' ');
    const fromRight = directionOf(line) ?? false;
    let words: Word[] = [];
    let width = 0;
    const put = () => {
      this.room(LINE);
      let x = fromRight ? TEXT.x + TEXT.width - width : TEXT.x;
      for (const word of inSight(
        words,
        fromRight,
        (one) => (one.fromRight ?? fromRight) !== fromRight,
      )) {
        this.#word(word, x);
        x += word.width + space;
      }
      this.y += LINE;
      [words, width] = [[], 0];
    };
    for (const word of this.#wordsOf(line)) {
      const gap = words.length > 0 ? space : 0;
      if (words.length > 0 && width + gap + word.width > TEXT.width) put();
      width += (words.length > 0 ? space : 0) + word.width;
      words.push(word);
    }
    put();
  }

  /** One that is wider than a line, or of a script without spaces, is cut where the line ends. */
  *#wordsOf(line: string): Generator<Word> {
    for (const text of line.split(/\s+/).filter(Boolean)) {
      const word = this.#wordOf(text);
      if (word.width <= TEXT.width) {
        yield word;
        continue;
      }
      let part = '';
      for (const letter of text) {
        if (part !== '' && this.#wordOf(part + letter).width > TEXT.width) {
          yield this.#wordOf(part);
          part = '';
        }
        part += letter;
      }
      if (part !== '') yield this.#wordOf(part);
    }
  }

  #word({ runs, fromRight: direction }: Word, at: number): void {
    const fromRight = direction ?? false;
    let x = at;
    for (const { face, text, width } of inSight(
      runs,
      fromRight,
      (run) => run.fromRight !== fromRight,
    )) {
      this.#paper.font(face).fontSize(SIZE).fillColor('black');
      this.#paper.text(text, x, this.y, { lineBreak: false });
      x += width;
    }
  }

  picture({ jpeg, width, height: high }: DrawnPicture): void {
    const height = high * Math.min(PICTURE / width, PICTURE / high);
    this.room(height + 2 * MM);
    this.#paper.image(jpeg, TEXT.x, this.y + MM, { height });
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
  words(title, 15);
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
