import PDFDocument from 'pdfkit';
import { moment, paragraphs, sentence, type Life } from './life.js';
import type { NewFile } from './generate.js';

/** PDFs of some pages: a timetable, and a programme of an evening. */
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
  }
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
