import { A4, bytesOf, drawLogo, inOneLine, MM, newPaper, type ShopOnPaper } from './paper.js';

/** A part of a sheet: lines of a name and what is said of it. */
export interface SheetSection {
  title: string;
  lines: { name: string; text: string }[];
}

export const SHEET = { left: 20 * MM, top: 42 * MM };
const NAMES = 48 * MM;
const SOFT = '#5a544b';

/**
 * Sections one below the other, over as many pages as they need; below them a line in small print.
 * @param isClose set closer, so that what a customer takes home is one page
 */
export function drawSections(
  paper: PDFKit.PDFDocument,
  sections: readonly SheetSection[],
  foot: string,
  isClose = false,
): void {
  const [size, gap, above] = isClose ? [8.8, 0.8 * MM, 2 * MM] : [9.5, 1.4 * MM, 4 * MM];
  const { left } = SHEET;
  const inside = A4.width - 2 * left;
  let y = SHEET.top;
  const room = (height: number) => {
    if (y + height < A4.height - 18 * MM) return;
    paper.addPage();
    y = 20 * MM;
  };
  const line = (name: string, text: string) => {
    paper.font('text').fontSize(size);
    room(paper.heightOfString(text, { width: inside - NAMES }));
    paper
      .font('text')
      .fontSize(size - 1)
      .fillColor(SOFT);
    paper.text(name, left, y + 0.5, { width: NAMES - 3 * MM });
    const under = paper.y;
    paper.font('text').fontSize(size).fillColor('black');
    paper.text(text, left + NAMES, y, { width: inside - NAMES });
    y = Math.max(paper.y, under) + gap;
  };
  for (const { title, lines } of sections) {
    if (title !== '') {
      room(24 * MM);
      y += above;
      paper.font('strong').fontSize(11.5).fillColor('black').text(title, left, y);
      y += 6.5 * MM;
    }
    for (const { name, text } of lines) line(name, text);
  }
  room(14 * MM);
  y += 5 * MM;
  paper.font('text').fontSize(8.5).fillColor(SOFT);
  paper.text(foot, left, y, { width: inside });
}

/** A sheet of the shop’s own, about no ticket. PDF (ISO 32000). */
export async function drawSheet(
  { shop, title, under, foot }: { shop: ShopOnPaper; title: string; under: string; foot: string },
  sections: readonly SheetSection[],
): Promise<Buffer> {
  const paper = newPaper(A4, title);
  const { left } = SHEET;
  drawLogo(paper, shop, { x: A4.width - left, y: 17 * MM, isLeft: false });
  paper
    .font('strong')
    .fontSize(17)
    .text(title, left, 18 * MM);
  paper
    .font('text')
    .fontSize(11)
    .text(under, left, 26.5 * MM);
  paper.fontSize(8).text(`${shop.name}, ${inOneLine(shop.address)}`, left, 32 * MM);
  drawSections(paper, sections, foot);
  return bytesOf(paper);
}
