import {
  countOf,
  dataClasses,
  formatBytes,
  formatCount,
  passwordHolders,
  serialRead,
} from '@bright-cellar/core';
import type { Archive, Backup, Keeping, Ticket } from '@bright-cellar/contract';
import {
  A4,
  bytesOf,
  drawSections,
  letterhead,
  MM,
  newPaper,
  SHEET,
  type SheetSection,
  type ShopOnPaper,
} from '../paper/index.js';

/** What lies in the shop of a ticket's device, and how long. */
export interface Kept {
  archive: Archive;
  keeping: Keeping;
}

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
const onDay = (at: string) => day.format(new Date(at));

/** What the customer is told of a visit, in their words: what was done, what is kept, what is not in it, what is lost. */
export function handoverOf(ticket: Ticket, kept: readonly Kept[]): SheetSection[] {
  const done = ticket.runSheet.filter(({ state }) => state === 'done' || state === 'skipped');
  return [
    {
      title: 'What was done',
      lines: done.map(({ title, state, evidence }) => ({
        name: title,
        text: evidence.join(' ') || (state === 'skipped' ? 'left out' : 'done'),
      })),
    },
    ...kept.flatMap(({ archive, keeping }) =>
      keptSections(archive, keeping, ticket.agreed.keepDays),
    ),
  ];
}

function keptSections(archive: Archive, keeping: Keeping, keepDays: number): SheetSection[] {
  if (archive.disposal) {
    const text = archive.disposal.doneAt
      ? `Destroyed on ${onDay(archive.disposal.doneAt)}. The certificate has the number ${archive.disposal.number}.`
      : 'It is being destroyed: the shop gives a certificate when nothing of it is left.';
    return [{ title: 'The backup', lines: [{ name: 'Destroyed', text }] }];
  }
  const [newest, ...older] = archive.backups;
  if (!newest) return [];
  const lost = lostOf(newest);
  const outside = newest.coverage.filter(({ state }) => state !== 'inside');
  const sections: SheetSection[] = [
    {
      title: 'The backup',
      lines: [
        {
          name: 'Taken',
          text: `${onDay(newest.takenAt)}: ${countOf(newest.items, 'item')}, ${formatBytes(newest.bytes)}${older.length > 0 ? `; the shop has ${countOf(older.length, 'older one')} beside it` : ''}`,
        },
        { name: 'Read back', text: readBack(newest) },
        { name: 'Password', text: passwordLine(archive) },
        { name: 'Kept', text: keptUntil(keeping, keepDays) },
      ],
    },
    { title: 'What cannot be restored', lines: lost },
    {
      title: 'What is inside',
      lines: newest.classes
        .filter(({ items }) => items > 0)
        .map(({ class: dataClass, items, bytes }) => ({
          name: dataClasses[dataClass],
          text: `${formatCount(items)}, ${formatBytes(bytes)}`,
        })),
    },
    {
      title: 'What is not inside, and how it comes back',
      lines: outside.map(({ what, why, returns }) => ({
        name: what,
        text: returns ? `${why} ${returns}` : why,
      })),
    },
  ];
  return sections.filter(({ lines }) => lines.length > 0);
}

/** Proofs that speak of a copy as it lies now, the newest first. */
const current = ({ proofs }: Backup) => proofs.filter((proof) => proof.current && !proof.gone);

/** By copy, what was found last; damage counts where no copy was found whole. */
function isDamaged(backup: Backup): boolean {
  const newest = new Map<string, string>();
  for (const { copyId, outcome } of current(backup)) {
    if (!newest.has(copyId)) newest.set(copyId, outcome);
  }
  const found = [...newest.values()];
  return found.includes('damaged') && !found.includes('whole');
}

function lostOf(backup: Backup): SheetSection['lines'] {
  const damage = isDamaged(backup) && current(backup).find((p) => p.outcome === 'damaged');
  const failed = backup.failed.reduce((sum, { count }) => sum + count, 0);
  return [
    ...(damage ? [{ name: 'Damaged on the drive', text: damage.what }] : []),
    ...(failed > 0
      ? [
          {
            name: 'Could not be taken',
            text: `${countOf(failed, 'item')} could not be read from the device when the backup was taken.`,
          },
        ]
      : []),
  ];
}

function readBack(backup: Backup): string {
  const whole = current(backup).find(({ outcome }) => outcome === 'whole');
  if (isDamaged(backup)) return 'Parts of it are damaged, see below.';
  if (!whole) return 'Not yet: the shop has not proven that it opens.';
  return whole.level === 'bytes'
    ? `Its bytes are whole, ${onDay(whole.at)}.`
    : `Opened with its password and found whole, ${onDay(whole.at)}.`;
}

function passwordLine({ encrypted, passwordHolder, escrow }: Archive): string {
  if (!encrypted) return 'None: whoever has the backup can read it.';
  const held = `Held by ${passwordHolders[passwordHolder]}.`;
  return escrow
    ? `${held} Two people of the shop together can open it without.`
    : `${held} Nobody can open the backup without it.`;
}

function keptUntil({ dueAt, hold, untilTold, longer }: Keeping, keepDays: number): string {
  if (hold) return 'Held by the shop until it says otherwise.';
  if (longer && !longer.until) return 'Until you tell the shop.';
  if (dueAt)
    return `Until ${onDay(dueAt)}. Ask for it before, to take it along or to have it kept.`;
  if (untilTold) return 'Until the visit ends and you tell the shop.';
  return keepDays > 0
    ? `${countOf(keepDays, 'day')} after the visit, as agreed.`
    : 'Not beyond the visit, as agreed.';
}

/** What the customer takes home when the visit is over. PDF (ISO 32000). */
export async function drawHandover(
  ticket: Ticket,
  sections: readonly SheetSection[],
  shop: ShopOnPaper,
): Promise<Buffer> {
  const { device } = ticket;
  const serial = serialRead(device.serial);
  const title = 'Handover sheet';
  const paper = newPaper(A4, `${title} ${ticket.number}`);
  await letterhead(
    paper,
    { shop, title, number: ticket.number },
    { left: SHEET.left, top: 18 * MM, sizes: [17, 11, 8] },
  );
  drawSections(
    paper,
    [
      {
        title: '',
        lines: [
          { name: 'Customer', text: ticket.customer.name },
          {
            name: 'Device',
            text: `${device.familyName} ${device.model}${serial ? `, serial ${serial}` : ''}`,
          },
        ],
      },
      ...sections,
    ],
    'Never give the shop the password of your online account. The shop does not ask for it.',
  );
  return bytesOf(paper);
}
