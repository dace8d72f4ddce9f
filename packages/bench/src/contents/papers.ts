import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { moment, paragraphs, sentence, type Life } from './life.js';
import type { NewFile } from './generate.js';

/** PDFs of some pages: a timetable, and a programme of an evening; and a page as a scanner gives it. */
export function* papers(life: Life, count: number): Generator<NewFile> {
  for (let i = 1; i <= count; i++) {
    const modified = moment(life);
    const isTimetable = i % 2 === 1;
    const place = life.chance.pick(life.places).name;
    const title = isTimetable ? `Boats to ${place}` : `An evening at ${place}`;
    const lines = Array.from({ length: isTimetable ? 40 : 12 }, () =>
      isTimetable
        ? `${String(life.chance.whole(5, 22)).padStart(2, '0')}:${String(life.chance.whole(0, 59)).padStart(2, '0')}    ${life.chance.pick(life.places).name}    pier ${life.chance.whole(1, 6)}`
        : sentence(life),
    );
    const more = paragraphs(life, 8);
    yield {
      path: `documents/${isTimetable ? 'boats' : 'evening'}-${String(i).padStart(2, '0')}.pdf`,
      contents: paper({ title, lines: lines.sort(), more }, modified),
      modified,
    };
    if (i === count) yield { path: 'documents/scan-01.tif', contents: scan(), modified };
  }
}

const SCAN = { width: 620, height: 877, lines: 22 };

/** A form of lines that somebody signed. */
async function scan(): Promise<Uint8Array> {
  const { width, height, lines } = SCAN;
  const written = Array.from({ length: lines }, (_, i) => {
    const long = 300 + 180 * Math.sin(i * 2.4);
    return `<rect x="60" y="${150 + i * 24}" width="${long}" height="9" fill="#555"/>`;
  });
  const signed = Array.from(
    { length: 60 },
    (_, i) => `${330 + i * 3.4},${770 + 26 * Math.sin(i / 2.1) * Math.cos(i / 9)}`,
  );
  const form = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">
    <rect width="${width}" height="${height}" fill="#f4f2ec"/><rect x="60" y="70" width="260" height="30" fill="#222"/>
    ${written.join('')}<path d="M320 800h220" stroke="#888" stroke-width="2"/>
    <polyline points="${signed.join(' ')}" fill="none" stroke="#234" stroke-width="4"/></svg>`;
  const drawn = sharp(Buffer.from(form)).flatten().greyscale();
  return drawn.tiff({ compression: 'lzw', predictor: 'none' }).toBuffer();
}

async function paper(
  { title, lines, more }: { title: string; lines: string[]; more: string },
  at: Date,
): Promise<Uint8Array> {
  const pdf = new PDFDocument({ size: 'A5', margin: 44, info: { Title: title, CreationDate: at } });
  const pieces: Buffer[] = [];
  const ended = new Promise<void>((resolve, reject) => {
    pdf.on('data', (piece: Buffer) => pieces.push(piece));
    pdf.on('end', resolve);
    pdf.on('error', reject);
  });
  pdf.rect(44, 40, 60, 6).fill('#35546b').fillColor('black');
  pdf.font('Times-Bold').fontSize(20).text(title, 44, 54).moveDown();
  pdf.font('Helvetica').fontSize(10);
  for (const line of lines) pdf.text(line).moveDown(0.3);
  pdf.addPage().font('Times-Roman').fontSize(11).text(more);
  pdf.end();
  await ended;
  return Buffer.concat(pieces);
}
