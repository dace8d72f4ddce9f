import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import bwip from 'bwip-js/node';
import PDFDocument from 'pdfkit';

export const FONTS = join(
  dirname(createRequire(import.meta.url).resolve('dejavu-fonts-ttf/package.json')),
  'ttf',
);
/** Whose paper it is. */
export interface ShopOnPaper {
  name: string;
  /** In a few lines. */
  address: string;
  /** PNG; null where it has none. */
  logo: Buffer | null;
}

/** Points in a millimetre. */
export const MM = 72 / 25.4;
const LABEL = { width: 62 * MM, height: 29 * MM, margin: 2.5 * MM };
export const A4 = { width: 210 * MM, height: 297 * MM };
export const A5 = { width: 148 * MM, height: 210 * MM };

export function newPaper(
  size: { width: number; height: number },
  title: string,
): PDFKit.PDFDocument {
  const paper = new PDFDocument({
    size: [size.width, size.height],
    margin: 0,
    info: { Title: title, Creator: 'Bright Cellar' },
  });
  paper.registerFont('text', join(FONTS, 'DejaVuSans.ttf'));
  paper.registerFont('strong', join(FONTS, 'DejaVuSans-Bold.ttf'));
  paper.registerFont('mono', join(FONTS, 'DejaVuSansMono.ttf'));
  return paper;
}

export async function bytesOf(paper: PDFKit.PDFDocument): Promise<Buffer> {
  const pieces: Buffer[] = [];
  const ended = new Promise<void>((resolve, reject) => {
    paper.on('data', (piece: Buffer) => pieces.push(piece));
    paper.on('end', resolve);
    paper.on('error', reject);
  });
  paper.end();
  await ended;
  return Buffer.concat(pieces);
}

/** Code 128 (ISO/IEC 15417): digits only, so any scanner types them. */
export const barcode = (number: string) =>
  bwip.toBuffer({ bcid: 'code128', text: number, scale: 4, height: 9, includetext: false });

/**
 * The head of a ticket’s paper: whose it is and what it is to the left, the ticket’s number to the right, as bars and digits.
 * @param sizes of the three texts, points
 */
export async function letterhead(
  paper: PDFKit.PDFDocument,
  { shop, title, number }: { shop: ShopOnPaper; title: string; number: string },
  {
    left: margin,
    top,
    sizes,
  }: { left: number; top: number; sizes: readonly [number, number, number] },
): Promise<void> {
  const code = { width: 48 * MM, height: 10 * MM };
  const at = paper.page.width - margin - code.width;
  const left = margin + drawLogo(paper, shop, { x: margin, y: top - 1 * MM, isLeft: true });
  const width = at - left - 4 * MM;
  const [name, what, where] = sizes;
  paper
    .font('strong')
    .fontSize(name)
    .text(shop.name, left, top, { width, height: name * 1.3, ellipsis: true });
  paper
    .font('text')
    .fontSize(what)
    .text(title, left, top + 8.5 * MM);
  paper.fontSize(where).text(inOneLine(shop.address), left, top + 14 * MM, { width });
  paper.image(await barcode(number), at, top - 1 * MM, code);
  paper
    .font('mono')
    .fontSize(11)
    .text(number, at, top + 10 * MM, { width: code.width, align: 'center' });
}

const LOGO = { width: 30 * MM, height: 14 * MM };

/**
 * The shop's picture, as large as it goes into its place.
 * @param place its corner above, to the left, or to the right
 * @returns how much room it takes to the left of what stands beside it; none where the shop has none
 */
export function drawLogo(
  paper: PDFKit.PDFDocument,
  { logo }: ShopOnPaper,
  { x, y, isLeft }: { x: number; y: number; isLeft: boolean },
): number {
  if (logo === null) return 0;
  // Where a PNG says how large it is (ISO/IEC 15948, 11.2.1).
  const picture = { width: logo.readUInt32BE(16), height: logo.readUInt32BE(20) };
  const scale = Math.min(LOGO.width / picture.width, LOGO.height / picture.height);
  const width = picture.width * scale;
  paper.image(logo, isLeft ? x : x - width, y, { width, height: picture.height * scale });
  return width + 3 * MM;
}

/** Some lines as one. */
export const inOneLine = (lines: string): string =>
  lines
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '')
    .join(', ');

/** One line of text, cut where the room ends. */
export const oneLine = (width: number) => ({ width, height: 12, ellipsis: true, lineBreak: false });

/** What a sticker says below its bars: whose or what it is, and more of it. */
interface LabelWords {
  /** Digits only. */
  code: string;
  title: string;
  more: string;
}

/** A sticker: a number as bars and digits, and two lines. @returns PDF (ISO 32000) */
export async function label(name: string, { code, title, more }: LabelWords): Promise<Buffer> {
  const paper = newPaper(LABEL, name);
  const { margin, width } = LABEL;
  const inside = width - 2 * margin;
  paper.image(await barcode(code), margin, margin, { width: inside, height: 9 * MM });
  paper.font('mono').fontSize(15);
  paper.text(code, margin, margin + 9.8 * MM, { width: inside, align: 'center' });
  paper.font('strong').fontSize(8.5);
  paper.text(title, margin, margin + 15.6 * MM, oneLine(inside));
  paper.font('text').fontSize(7);
  paper.text(more, margin, margin + 19.6 * MM, oneLine(inside));
  return bytesOf(paper);
}
