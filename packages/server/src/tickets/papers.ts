import { serialRead, visitReasons } from '@bright-cellar/core';
import type { Ticket } from '@bright-cellar/contract';
import { A5, bytesOf, label, letterhead, MM, newPaper, type ShopOnPaper } from '../paper/index.js';

const moment = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
});

/** A sticker for the device and its drive: the number as bars and digits, whose it is, and what it is. */
export function labelFor({ number, customerName, device }: Ticket): Promise<Buffer> {
  return label(`Label ${number}`, {
    code: number,
    title: customerName,
    more: `${device.familyName} ${device.model}  ${serialRead(device.serial) ?? ''}`,
  });
}

/** What the customer takes home from the counter: what they left, what they agreed to, when it is ready. */
export async function slipFor(ticket: Ticket, shop: ShopOnPaper): Promise<Buffer> {
  const paper = newPaper(A5, `Intake slip ${ticket.number}`);
  const left = 12 * MM;
  const inside = A5.width - 2 * left;
  const { number } = ticket;
  const head = { shop, title: 'Intake slip', number };
  await letterhead(paper, head, { left, top: 12 * MM, sizes: [15, 9, 7.5] });
  let y = 33 * MM;
  const line = (name: string, value: string) => {
    paper
      .font('text')
      .fontSize(8)
      .fillColor('#5a544b')
      .text(name, left, y, { width: 34 * MM });
    paper.font('text').fontSize(10).fillColor('black');
    paper.text(value, left + 36 * MM, y - 1, { width: inside - 36 * MM });
    y = Math.max(paper.y, y + 5 * MM) + 1.6 * MM;
  };
  const { device, customer, agreed } = ticket;
  line('Customer', customer.name);
  line('Phone', customer.phone || 'not given');
  line('Device', `${device.familyName} ${device.model}`);
  line('Serial', serialRead(device.serial) ?? 'could not be read');
  if (device.imei) line('IMEI', device.imei);
  line('Reason', visitReasons[ticket.reason]);
  line('Taken in', `${moment.format(new Date(ticket.openedAt))}, by ${ticket.openedBy}`);
  line('Ready by', ticket.promisedAt ? moment.format(new Date(ticket.promisedAt)) : 'not promised');
  if (ticket.notes) line('Notes', ticket.notes);
  y += 3 * MM;
  paper.font('strong').fontSize(11).text('What was agreed', left, y);
  y += 7 * MM;
  for (const [yes, said, not] of [
    [agreed.backup, 'A backup is taken before anything else.', 'No backup is taken.'],
    [
      agreed.lookIn,
      'The shop may look at the contents, each look on record.',
      'Nobody looks at the contents.',
    ],
    [
      agreed.escrow,
      'Two people of the shop together can open the backup if the password is lost.',
      'Only the password opens the backup. If it is lost, nobody can.',
    ],
    [
      agreed.keepDays > 0,
      `The shop may keep the backup for ${agreed.keepDays} days.`,
      'The shop was not asked to keep the backup after the visit.',
    ],
  ] as const) {
    paper
      .font('strong')
      .fontSize(10)
      .text(yes ? 'Yes' : 'No', left, y, { width: 10 * MM });
    paper
      .font('text')
      .fontSize(9.5)
      .text(yes ? said : not, left + 12 * MM, y, { width: inside - 12 * MM });
    y = paper.y + 1.8 * MM;
  }
  y += 3 * MM;
  paper.font('text').fontSize(8).fillColor('#5a544b');
  paper.text(
    'Never give the shop the password of your online account. The shop does not ask for it.',
    left,
    y,
    { width: inside },
  );
  paper
    .fillColor('black')
    .moveTo(left, 196 * MM)
    .lineTo(left + 70 * MM, 196 * MM)
    .lineWidth(0.6)
    .stroke();
  paper.fontSize(8).text('Signature of the customer', left, 198 * MM);
  return bytesOf(paper);
}
