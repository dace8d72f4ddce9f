import type { DaySheet, DueRow, TicketRow } from '@bright-cellar/contract';
import {
  countOf,
  isOver,
  operations as kinds,
  owedSentence,
  phaseName,
  type ConditionFacts,
  type Finding,
} from '@bright-cellar/core';
import { and, count, desc, eq, gte, inArray, isNotNull } from 'drizzle-orm';
import { headOf } from '../audit/index.js';
import type { Care } from '../care/index.js';
import { conditionOf } from '../condition/index.js';
import type { Database } from '../database/connect.js';
import { operations } from '../database/schema.js';
import { activeOperations, operationsWhere } from '../engine/index.js';
import type { Relay } from '../kernel/relay.js';
import { firstDue } from '../keep/index.js';
import { openByPromise } from '../tickets/index.js';
import type { Shop } from '../shop.js';

type Line = DaySheet['sections'][number]['lines'][number];

const SHOWN = 40;
/** So many that are owed a copy are looked at, and so many of those that wait are told. */
const [OWED, WAITING] = [20, 5];
/** What failed since somebody was here last: since the evening before, when the shop opens; in the day, when it closes. */
const BACK_MS = { opening: 16 * 3_600_000, closing: 12 * 3_600_000 };

const time = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
const at = (instant: string) =>
  `${day.format(new Date(instant))}, ${time.format(new Date(instant))}`;

/** What whoever opens or closes the shop has to know: what is promised, what failed, what is due, how the shop itself is. */
export async function daySheet(
  shop: Shop,
  { care, relay }: { care: Care; relay: Relay },
  which: DaySheet['which'],
): Promise<DaySheet> {
  const { db, clock } = shop;
  const now = clock.now();
  const since = new Date(now.getTime() - BACK_MS[which]);
  const [open, due, owed, failed, running, done, condition, head] = await Promise.all([
    openByPromise(shop, SHOWN),
    firstDue(db, now, SHOWN),
    care.waits(OWED),
    operationsWhere(
      db,
      // What is done ended without a problem, and is most of all: it is not looked at.
      and(
        inArray(operations.state, ['failed', 'stopped', 'interrupted']),
        gte(operations.endedAt, since),
        isNotNull(operations.problem),
      ),
      { order: [desc(operations.endedAt)], atMost: SHOWN + 1 },
    ),
    // What still runs and what was done, whoever closes the shop is told.
    which === 'closing' ? activeOperations(db) : [],
    which === 'closing' ? doneSince(db, since) : [],
    conditionOf(shop, relay),
    headOf(db),
  ]);
  const promised = open.rows.filter(
    ({ promisedAt }) => promisedAt !== null && isSoon(promisedAt, which, now),
  );
  const others = open.rows.filter((row) => !promised.includes(row));
  const sections: DaySheet['sections'] = [
    {
      title: which === 'opening' ? 'Promised for today, or late' : 'Promised by tomorrow, or late',
      lines: promised.map((row) => ticketLine(row, now)),
      empty: 'Nothing is promised.',
    },
    {
      title: which === 'opening' ? 'Failed in the night' : 'Failed today',
      lines: failed.slice(0, SHOWN).map(({ kind, ticketNumber, deviceName, problem, endedAt }) => ({
        name: [kinds[kind].name, ticketNumber].filter(Boolean).join(' '),
        text: `${deviceName ? `${deviceName}: ` : ''}${problem?.what ?? ''} ${problem?.next ?? ''} (${at(endedAt ?? now.toISOString())})`,
        to: ticketNumber ? `/tickets/${ticketNumber}` : null,
      })),
      empty: 'Nothing failed.',
    },
    ...(which === 'closing'
      ? [
          {
            title: 'Still runs',
            lines: running.map(({ kind, phase, ticketNumber, deviceName, state }) => ({
              name: [kinds[kind].name, ticketNumber].filter(Boolean).join(' '),
              text: `${deviceName ? `${deviceName}: ` : ''}${isOver(state) ? state : phaseName(kind, phase)}. Leave this computer, the device and its cable as they are.`,
              to: ticketNumber ? `/tickets/${ticketNumber}` : null,
            })),
            empty: 'Nothing runs: devices can be handed out or locked away.',
          },
          {
            title: 'Done today',
            lines: done.map(doneLine),
            empty: 'Nothing was done today.',
          },
        ]
      : []),
    {
      title: 'Other open tickets, the oldest first',
      lines: others.map((row) => ticketLine(row, now)),
      empty: 'No other ticket is open.',
    },
    {
      title: 'Kept no longer by what was agreed',
      lines: due.map(dueLine),
      empty: 'Nothing is due to be handed out or destroyed.',
    },
    {
      title: 'Copies and checks',
      lines: careLines(condition.facts.queues.owed, owed),
      empty: 'No copy is owed, no check is due.',
    },
    {
      title: 'The shop itself',
      lines: condition.findings.filter(({ state }) => state !== 'well').map(findingLine),
      empty: 'Everything answers and is as it should be.',
    },
    {
      title: 'The record',
      lines: [
        {
          name: countOf(head.entries, 'entry', 'entries'),
          text: `Seal: ${head.digest.match(/.{1,8}/g)?.join(' ') ?? ''}`,
          to: '/record',
        },
      ],
      empty: '',
    },
  ];
  return {
    which,
    at: now.toISOString(),
    now: nowSentence(which, promised, failed.length, running.length, now),
    sections,
  };
}

/** How often each kind of work was done. */
const doneSince = (db: Database, since: Date) =>
  db
    .select({ kind: operations.kind, times: count() })
    .from(operations)
    .where(and(gte(operations.endedAt, since), eq(operations.state, 'done')))
    .groupBy(operations.kind);

/** By the end of today when the shop opens, of tomorrow when it closes; what is late too. */
function isSoon(promisedAt: string, which: DaySheet['which'], now: Date): boolean {
  const end = new Date(now);
  end.setHours(0, 0, 0, 0);
  end.setDate(end.getDate() + (which === 'opening' ? 1 : 2));
  return new Date(promisedAt) < end;
}

function nowSentence(
  which: DaySheet['which'],
  promised: readonly TicketRow[],
  failed: number,
  running: number,
  now: Date,
): string {
  const late = promised.find(({ promisedAt }) => promisedAt !== null && new Date(promisedAt) < now);
  if (late) return `Call ${late.customerName}: ticket ${late.number} is late.`;
  if (failed > SHOWN) return `Look at what failed: more than ${SHOWN} runs.`;
  if (failed > 0) return `Look at what failed: ${countOf(failed, 'run')}.`;
  if (which === 'closing' && running > 0)
    return `Leave this computer on: ${countOf(running, 'run')} ${running === 1 ? 'goes' : 'go'} on by ${running === 1 ? 'itself' : 'themselves'}.`;
  const [first] = promised;
  if (first) return `Begin with ticket ${first.number}, ${first.customerName}.`;
  return which === 'opening'
    ? 'Nothing is promised for today.'
    : 'Nothing keeps you: the shop can close.';
}

function ticketLine(
  { number, customerName, device, promisedAt, openedAt, step }: TicketRow,
  now: Date,
): Line {
  const when = promisedAt
    ? `${new Date(promisedAt) < now ? 'LATE, promised' : 'promised'} for ${at(promisedAt)}`
    : `here since ${day.format(new Date(openedAt))}`;
  return {
    name: `${number} ${customerName}`,
    text: `${device.name || device.model}, ${when}. ${step ? `${step.title}: ${step.sentence}` : 'All its steps are done: hand over and close.'}`,
    to: `/tickets/${number}`,
  };
}

const dueLine = ({
  archiveId,
  customerName,
  phone,
  deviceName,
  dueAt,
  rackName,
}: DueRow): Line => ({
  name: customerName,
  text: `${deviceName} on ${rackName}, due since ${dueAt ? day.format(new Date(dueAt)) : 'now'}. ${phone ? `Call ${phone}.` : 'No number is known.'}`,
  to: `/archives/${archiveId}`,
});

const findingLine = ({ about, what, next }: Finding): Line => ({
  ...{ name: about, text: `${what} ${next}`, to: '/condition' },
});

function careLines(
  owed: ConditionFacts['queues']['owed'],
  { waiting, checksDue }: Awaited<ReturnType<Care['waits']>>,
): Line[] {
  return [
    ...(owed.total > 0
      ? [
          {
            name: 'Copies',
            text: owedSentence(owed),
            to: '/racks',
          },
        ]
      : []),
    ...waiting.slice(0, WAITING).map(({ archiveId, deviceName, why }) => ({
      ...{ name: deviceName, text: why, to: `/archives/${archiveId}` },
    })),
    ...(checksDue > 0
      ? [
          {
            name: 'Checks',
            text: `${countOf(checksDue, 'copy', 'copies')} due for a check.`,
            to: '/racks',
          },
        ]
      : []),
  ];
}

const doneLine = ({ kind, times }: { kind: keyof typeof kinds; times: number }): Line => ({
  ...{ name: kinds[kind].name, text: times === 1 ? 'once' : `${times} times`, to: '/today' },
});
