import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type MergeLineTold, type PartnerTold } from '@bright-cellar/contract';
import {
  fieldNames,
  countOf,
  formatCount,
  type Decision,
  type Field,
  type MergedKindTold,
  type SyncedKind,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { useEffect, useRef, useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { YesNo } from '../design/choice.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { otherSides } from './other-side.js';
import { kindNames } from './sync-setup.js';

const PAGE = 100;
const decisionNames = (other: PartnerTold['kind']): Record<Decision, string> => ({
  device: 'As on the device',
  partner: otherSides[other].as,
  both: 'Keep both',
});

function asideWords(
  other: PartnerTold['kind'],
  { device, partner }: MergedKindTold['aside'],
): string[] {
  const words = (count: number, where: string) =>
    count === 0
      ? []
      : [
          `${countOf(count, 'entry', 'entries')} longer than ${where} keeps: shortened there, whole on the other side.`,
        ];
  return [
    ...words(device, 'the device'),
    ...words(partner, other === 'device' ? 'the other device' : 'the other side'),
  ];
}

/** One line a person or event, device and server beside each other, and what becomes of it; only what waits for a decision is lit. */
export function MergeLedger({
  partner,
  other,
  kind,
  read,
  aside,
}: {
  partner: string;
  /** What the other side is. */
  other: PartnerTold['kind'];
  kind: SyncedKind;
  /** Another once both sides were read anew. */
  read: string;
  /** Of how much a side keeps less than the other has. */
  aside: MergedKindTold['aside'];
}) {
  const client = useQueryClient();
  const [onlyOpen, setOnlyOpen] = useState(false);
  const [from, setFrom] = useState(0);
  const table = useRef<HTMLTableElement>(null);
  const goesOn = useRef(false);
  const key = ['merge', partner, kind, read];
  const lines = useQuery({
    queryKey: [...key, onlyOpen, from],
    queryFn: () =>
      call(routes.mergeLines, { params: { id: partner }, body: { kind, onlyOpen, from } }),
    placeholderData: keepPreviousData,
    // All of it is the customer's: it is not kept longer than it is looked at.
    gcTime: 0,
  });
  const decide = useMutation({
    mutationFn: (what: { at: number | null; decision: Decision }) =>
      call(routes.decideMerge, { params: { id: partner }, body: { kind, ...what } }),
    onSuccess: async () => {
      goesOn.current = true;
      await client.invalidateQueries({ queryKey: key });
    },
  });
  const told = lines.data;
  // To the next one that waits: whoever decides by keyboard goes on from there.
  useEffect(() => {
    if (!goesOn.current) return;
    goesOn.current = false;
    table.current?.querySelector<HTMLElement>('[data-open] button')?.focus();
  }, [told]);
  if (!told) return <Loading what="Putting both sides beside each other" />;
  return (
    <Section title={kindNames[kind]}>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 pb-2 text-small">
        <YesNo
          label="Only where they differ"
          checked={onlyOpen}
          onChange={(on) => {
            setOnlyOpen(on);
            setFrom(0);
          }}
        />
        {told.open > 0 && (
          <span role="group" aria-label="The same for all that wait" className="flex gap-2">
            {(['device', 'partner', 'both'] as const).map((decision) => (
              <Button
                key={decision}
                busy={decide.isPending}
                onClick={() => decide.mutate({ at: null, decision })}
              >
                All {formatCount(told.open)}: {decisionNames(other)[decision].toLowerCase()}
              </Button>
            ))}
          </span>
        )}
      </div>
      {asideWords(other, aside).map((words) => (
        <p key={words} className="pb-2 text-small">
          {words}
        </p>
      ))}
      {decide.error && <ProblemNote problem={problemFrom(decide.error)} />}
      {told.lines.length === 0 ? (
        <p className="text-soft">Nothing changes here.</p>
      ) : (
        <table
          ref={table}
          aria-label={`${kindNames[kind]} on both sides`}
          className="w-full table-fixed border-collapse text-small"
        >
          <thead>
            <tr className="text-left">
              <th className="w-[42%] py-1 pr-4 font-semibold">On the device</th>
              <th className="w-[18%] font-semibold">Becomes</th>
              <th className="w-[40%] pl-4 font-semibold">{otherSides[other].where}</th>
            </tr>
          </thead>
          <tbody>
            {told.lines.map((line) => (
              <Line
                key={line.at}
                line={line}
                names={decisionNames(other)}
                onDecide={(decision) => decide.mutate({ at: line.at, decision })}
              />
            ))}
          </tbody>
        </table>
      )}
      {told.total > PAGE && (
        <div className="flex items-center gap-3 pt-2 text-small">
          <Button disabled={from === 0} onClick={() => setFrom(from - PAGE)}>
            Before
          </Button>
          {formatCount(from + 1)} to {formatCount(Math.min(from + PAGE, told.total))} of{' '}
          {formatCount(told.total)}
          <Button disabled={from + PAGE >= told.total} onClick={() => setFrom(from + PAGE)}>
            After
          </Button>
        </div>
      )}
    </Section>
  );
}

function Line({
  line,
  names,
  onDecide,
}: {
  line: MergeLineTold;
  names: Record<Decision, string>;
  onDecide: (decision: Decision) => void;
}) {
  const { device, partner, conflict, isOpen, title } = line;
  const shown = new Set<Field>([...device.fields, ...partner.fields, ...(conflict?.fields ?? [])]);
  // Each stands below what it keeps.
  const decide = (decision: Decision) =>
    conflict && (
      <span className="block pt-1.5">
        <Button aria-label={`${names[decision]}: ${title}`} onClick={() => onDecide(decision)}>
          {names[decision]}
        </Button>
      </span>
    );
  return (
    <tr
      {...(isOpen ? { 'data-open': '' } : {})}
      className={clsx('border-t border-line align-top *:py-1.5', isOpen && 'bg-lamp/20')}
    >
      <td className="pr-4">
        <Side title={title} side={device} shown={shown} />
        {decide('device')}
      </td>
      <td>
        <Becomes line={line} />
        {conflict?.removedOn === null && decide('both')}
      </td>
      <td className="pl-4">
        <Side title={title} side={partner} shown={shown} />
        {decide('partner')}
      </td>
    </tr>
  );
}

/** Its name, and of its parts those that something becomes of. */
function Side({
  title,
  side: { parts },
  shown,
}: {
  title: string;
  side: MergeLineTold['device'];
  shown: ReadonlySet<Field>;
}) {
  if (parts === null) return <span className="text-soft">not there</span>;
  const told = parts.filter(({ field }) => field !== 'name' && shown.has(field));
  const name = parts.find(({ field }) => field === 'name')?.words ?? title;
  return (
    <>
      <span className="font-semibold break-words">{name || 'Without a name'}</span>
      {told.map(({ field, words }) => (
        <span key={field} className="block break-words">
          <span className="text-soft">{fieldNames[field]}:</span> {words}
        </span>
      ))}
    </>
  );
}

const stepNames = { add: 'new', change: 'changed', remove: 'removed' } as const;

function Becomes({ line: { device, partner, isOpen } }: { line: MergeLineTold }) {
  if (isOpen && device.step === 'nothing' && partner.step === 'nothing')
    return <strong>They differ</strong>;
  return (
    <>
      {partner.step !== 'nothing' && (
        <span className="block whitespace-nowrap">{stepNames[partner.step]} →</span>
      )}
      {device.step !== 'nothing' && (
        <span className="block whitespace-nowrap">← {stepNames[device.step]}</span>
      )}
      {isOpen && <strong className="block">They differ</strong>}
      {!isOpen && device.step === 'nothing' && partner.step === 'nothing' && 'stays'}
    </>
  );
}
