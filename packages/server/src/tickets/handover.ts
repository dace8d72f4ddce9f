import { isSettled, serialRead, type SettlingId } from '@bright-cellar/core';
import type {
  Archive,
  Backup,
  HandoverLanguage,
  Keeping,
  Operation,
  OperationOf,
  Ticket,
} from '@bright-cellar/contract';
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
import { HandoverWords } from './handover-texts/index.js';

export const titleOfSheet = (language: HandoverLanguage): string =>
  new HandoverWords(language).say('title');

/** What lies in the shop of a ticket's device, and how long. */
export interface Kept {
  archive: Archive;
  keeping: Keeping;
}

type Lines = SheetSection['lines'];

/** What the customer is told of a visit, in their words: what was done, what is kept, what is not in it, what to do at home. */
export function handoverOf(
  ticket: Ticket,
  kept: readonly Kept[],
  language: HandoverLanguage = 'en',
): SheetSection[] {
  const words = new HandoverWords(language);
  const newest = kept[0]?.archive.backups[0];
  const sections: SheetSection[] = [
    { title: words.say('done'), lines: doneLines(ticket, newest, words) },
    { title: words.say('atHome'), lines: atHome(ticket, words) },
    ...kept.flatMap((one) => keptSections(ticket, one, words)),
  ];
  return sections.filter(({ lines }) => lines.length > 0);
}

/** The newest work of a kind on the ticket that ended well. */
const ended = <Kind extends Operation['kind']>(
  { operations }: Ticket,
  kind: Kind,
): OperationOf<Kind> | undefined =>
  operations.find(
    (one): one is Extract<Operation, { kind: Kind }> => one.kind === kind && one.state === 'done',
  ) as OperationOf<Kind> | undefined;

function doneLines(ticket: Ticket, backup: Backup | undefined, words: HandoverWords): Lines {
  const isDone = (id: string) => ticket.runSheet.some((s) => s.id === id && s.state === 'done');
  const lines: Lines = [];
  const line = (name: string, text: string) => void lines.push({ name, text });
  if (backup && isDone('backup')) {
    const text = backup.scope.everything ? 'doneBackupText' : 'doneBackupPart';
    line(words.say('doneBackup'), words.say(text, amountOf(backup, words)));
  }
  const whole = backup && current(backup).find(({ outcome }) => outcome === 'whole');
  if (whole && isDone('prove')) {
    line(words.say('doneProof'), words.say('doneProofText', { date: words.day(whole.at) }));
  }
  if (isDone('repair')) line(words.say('doneRepair'), words.say('doneRepairText'));
  if (ended(ticket, 'erase')) line(words.say('doneErase'), words.say('doneEraseText'));
  const restored = ended(ticket, 'restore');
  if (restored?.result)
    line(words.say('doneRestore'), words.say('doneRestoreText', onto(restored, words)));
  const crossed = ended(ticket, 'cross');
  if (crossed?.result) {
    const stayed = crossed.result.report.reduce(
      (sum, one) => sum + one.stays.reduce((all, { count }) => all + count, 0),
      0,
    );
    const text = [
      words.say('doneCrossText', onto(crossed, words)),
      ...(stayed > 0 ? [words.say('doneCrossStayed', { stayed: words.count(stayed) })] : []),
    ];
    line(words.say('doneCross'), text.join(' '));
  }
  // Looking at what would come back brings nothing.
  const back = ticket.operations.find(
    (one): one is OperationOf<'bringBack'> =>
      one.kind === 'bringBack' && one.result?.wrote === true,
  );
  if (back) line(words.say('doneBack'), words.say('doneBackText', onto(back, words)));
  if (isDone('check')) line(words.say('doneCheck'), words.say('doneCheckText'));
  return lines;
}

const onto = (
  { deviceName, result }: OperationOf<'restore'> | OperationOf<'cross'> | OperationOf<'bringBack'>,
  words: HandoverWords,
) => ({ items: words.count(result?.items ?? 0), target: deviceName ?? '' });

const amountOf = ({ takenAt, items, bytes }: Backup, words: HandoverWords) => ({
  ...{ date: words.day(takenAt), items: words.count(items), size: words.size(bytes) },
});

/** What a device that was filled still asks of its owner, in the order in which it asks. */
function atHome(ticket: Ticket, words: HandoverWords): Lines {
  if (!ended(ticket, 'restore') && !ended(ticket, 'cross')) return [];
  const isDone = (...ids: SettlingId[]) =>
    ids.every((id) => ticket.settling.some((step) => step.id === id && isSettled(step)));
  const steps = [
    // What was done at the counter is not asked for again.
    ...(isDone('wifi', 'applications') ? [] : (['Wifi'] as const)),
    ...(isDone('account') ? [] : (['Account'] as const)),
    ...(isDone('applications') ? [] : (['Applications'] as const)),
    ...(['Cards', 'Look'] as const),
  ];
  return steps.map((step, i) => ({ name: `${i + 1}`, text: words.say(`atHome${step}`) }));
}

function keptSections(
  ticket: Ticket,
  { archive, keeping }: Kept,
  words: HandoverWords,
): SheetSection[] {
  const title = words.say('backup');
  if (archive.disposal) {
    const { doneAt, number } = archive.disposal;
    const text = doneAt
      ? words.say('destroyedText', { date: words.day(doneAt), number: `${number}` })
      : words.say('destroying');
    return [{ title, lines: [{ name: words.say('destroyed'), text }] }];
  }
  const [newest, ...older] = archive.backups;
  if (!newest) return [];
  const taken = older.length > 0 ? 'takenOlder' : 'takenText';
  const along = ended(ticket, 'export');
  return [
    {
      title,
      lines: [
        {
          name: words.say('taken'),
          text: words.say(taken, { ...amountOf(newest, words), older: words.count(older.length) }),
        },
        { name: words.say('readBack'), text: readBack(newest, words) },
        { name: words.say('password'), text: passwordLine(archive, words) },
        { name: words.say('kept'), text: keptUntil(keeping, ticket.agreed.keepDays, words) },
        ...(along?.result
          ? [
              {
                name: words.say('takenAlong'),
                text: words.say(
                  along.result.form === 'stick' ? 'takenAlongStick' : 'takenAlongFile',
                ),
              },
            ]
          : []),
      ],
    },
    { title: words.say('lost'), lines: lostOf(newest, words) },
    {
      title: words.say('inside'),
      lines: [
        {
          name: words.size(newest.bytes),
          // On one line as far as it goes: the sheet is to be one page.
          text: newest.classes
            .filter(({ items }) => items > 0)
            .map(({ class: id, items }) => `${words.say(id)} ${words.count(items)}`)
            .join(' · '),
        },
      ],
    },
    {
      title: words.say('outside'),
      lines: newest.coverage
        .filter(({ state }) => state !== 'inside')
        .map((line) => ({
          name: words.maybe(line.id) ?? line.what,
          text: outsideText(line, words),
        })),
    },
  ];
}

/** What is not inside, and how it comes back; in the shop's own words where nobody wrote others. */
function outsideText(
  { id, state, why, returns }: Backup['coverage'][number],
  words: HandoverWords,
): string {
  if (id.startsWith('withdrawn-')) return words.say('withdrawn');
  const known = words.maybe(`${id}-text`);
  if (known !== null) return known;
  const isClass = words.maybe(id) !== null;
  if (isClass) return words.say(state === 'partly' ? 'partly' : 'notChosen');
  return returns ? `${why} ${returns}` : why;
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

function lostOf(backup: Backup, words: HandoverWords): Lines {
  const failed = backup.failed.reduce((sum, { count }) => sum + count, 0);
  return [
    ...(isDamaged(backup)
      ? [{ name: words.say('lostDamaged'), text: words.say('lostDamagedText') }]
      : []),
    ...(failed > 0
      ? [
          {
            name: words.say('lostFailed'),
            text: words.say('lostFailedText', { items: words.count(failed) }),
          },
        ]
      : []),
  ];
}

function readBack(backup: Backup, words: HandoverWords): string {
  const whole = current(backup).find(({ outcome }) => outcome === 'whole');
  if (isDamaged(backup)) return words.say('readBackDamaged');
  if (!whole) return words.say('readBackNot');
  const text = whole.level === 'bytes' ? 'readBackBytes' : 'readBackWhole';
  return words.say(text, { date: words.day(whole.at) });
}

function passwordLine(
  { encrypted, passwordHolder, escrow }: Archive,
  words: HandoverWords,
): string {
  if (!encrypted) return words.say('passwordNone');
  const held = words.say(
    passwordHolder === 'shop'
      ? 'passwordShop'
      : passwordHolder === 'both'
        ? 'passwordBoth'
        : 'passwordCustomer',
  );
  return escrow ? `${held} ${words.say('passwordEscrow')}` : held;
}

function keptUntil(
  { dueAt, hold, untilTold, longer }: Keeping,
  keepDays: number,
  words: HandoverWords,
): string {
  if (hold) return words.say('keptHeld');
  if (longer && !longer.until) return words.say('keptUntilTold');
  if (dueAt) return words.say('keptUntil', { date: words.day(dueAt) });
  if (untilTold) return words.say('keptUntilVisitEnds');
  return keepDays > 0
    ? words.say('keptDays', { days: words.count(keepDays) })
    : words.say('keptNot');
}

/** What the customer takes home when the visit is over. PDF (ISO 32000). */
export async function drawHandover(
  ticket: Ticket,
  sections: readonly SheetSection[],
  shop: ShopOnPaper,
  language: HandoverLanguage = 'en',
): Promise<Buffer> {
  const words = new HandoverWords(language);
  const { device } = ticket;
  const serial = serialRead(device.serial);
  const title = words.say('title');
  const paper = newPaper(A4, `${title} ${ticket.number}`);
  await letterhead(
    paper,
    { shop, title, number: ticket.number },
    { left: SHEET.left, top: 18 * MM, sizes: [17, 11, 8] },
  );
  const model = `${device.familyName} ${device.model}`;
  drawSections(
    paper,
    [
      {
        title: '',
        lines: [
          { name: words.say('customer'), text: ticket.customer.name },
          {
            name: words.say('device'),
            text: serial ? words.say('deviceWithSerial', { device: model, serial }) : model,
          },
        ],
      },
      ...sections,
    ],
    words.say('foot'),
    true,
  );
  return bytesOf(paper);
}
