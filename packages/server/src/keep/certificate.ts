import { formatBytes, formatCount } from '@bright-cellar/core';
import {
  A4,
  bytesOf,
  drawLogo,
  inOneLine,
  MM,
  newPaper,
  type ShopOnPaper,
} from '../paper/index.js';
import type { DisposalInFull } from './disposals.js';

const moment = new Intl.DateTimeFormat('en-GB', {
  ...{ day: 'numeric', month: 'short', year: 'numeric' },
  ...{ hour: '2-digit', minute: '2-digit', timeZoneName: 'short' },
});

/** What no medium can promise: said on every certificate. */
const LIMITS =
  'Of each copy the keys were overwritten in place and removed before anything else, then all of its files; then its place was read again and nothing was found. Without its keys nobody can open what a medium may still hold of it. A medium cannot promise more: flash memory, disks that move bad sectors and shares with snapshots of their own may keep earlier states of a file, of the keys too. Packages that were taken along, and copies that somebody made outside this program, are not covered.';

/** The certificate of a disposal: what was destroyed, where, when, how, and what that is worth. PDF (ISO 32000). */
export async function certificateFor(
  { disposal, by, copies }: DisposalInFull,
  shop: ShopOnPaper,
): Promise<Buffer> {
  const paper = newPaper(A4, `Certificate of disposal ${disposal.number}`);
  const left = 20 * MM;
  const inside = A4.width - 2 * left;
  const isDone = disposal.doneAt !== null;
  drawLogo(paper, shop, { x: A4.width - left, y: 17 * MM, isLeft: false });
  paper
    .font('strong')
    .fontSize(18)
    .text(isDone ? 'Certificate of disposal' : 'Disposal, not complete', left, 20 * MM);
  paper
    .font('text')
    .fontSize(11)
    .text(inOneLine(`${shop.name}\n${shop.address}`), left, 30 * MM, { width: inside });
  let y = 42 * MM;
  const line = (name: string, value: string, font: 'text' | 'mono' = 'text') => {
    paper.font('text').fontSize(9).fillColor('#5a544b');
    paper.text(name, left, y, { width: 42 * MM });
    paper
      .font(font)
      .fontSize(font === 'mono' ? 8 : 10)
      .fillColor('black');
    paper.text(value, left + 44 * MM, y, { width: inside - 44 * MM });
    y = Math.max(paper.y, y + 5 * MM) + 1.5 * MM;
  };
  line('Number', String(disposal.number));
  line('Archive', disposal.archiveId, 'mono');
  line('Customer', disposal.customerName || 'name let go by the shop’s rules');
  line('Ticket', disposal.ticketNumber);
  line('Device', `${disposal.deviceName}, ${disposal.device}, serial ${disposal.serial}`);
  line(
    'It held',
    `${formatCount(disposal.backups)} backups, ${moment.format(disposal.firstTakenAt)} to ${moment.format(disposal.lastTakenAt)}`,
  );
  line('Decided', `${moment.format(disposal.decidedAt)}, by ${by}`);
  line('Reason', disposal.reason);
  line('Complete', disposal.doneAt ? moment.format(disposal.doneAt) : 'no: copies are owed, below');
  y += 4 * MM;
  paper.font('strong').fontSize(12).text('Copies', left, y);
  y += 8 * MM;
  for (const { copy, rackName } of copies) {
    if (y > A4.height - 70 * MM) {
      paper.addPage();
      y = 20 * MM;
    }
    line(rackName, endOf(copy));
    line('Manifest SHA-512', copy.digest, 'mono');
  }
  y += 3 * MM;
  paper.font('text').fontSize(8.5).fillColor('#3a352d').text(LIMITS, left, y, { width: inside });
  return bytesOf(paper);
}

function endOf({
  goneAt,
  wasThere,
  storedBytes,
}: DisposalInFull['copies'][number]['copy']): string {
  if (!goneAt) return `${formatBytes(storedBytes)}, owed: the rack was not seen since`;
  return wasThere === false
    ? `not found there when it was looked for, ${moment.format(goneAt)}`
    : `${formatBytes(storedBytes)}, destroyed and seen to be gone, ${moment.format(goneAt)}`;
}
