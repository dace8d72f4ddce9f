import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type SamePersons as Told } from '@bright-cellar/contract';
import { countOf, formatCount, personReasons } from '@bright-cellar/core';
import { useEffect, useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

/** The surest; the others are shown when they are asked for. */
const FIRST = 6;

/** Cards that may be one person's, with what speaks for it; joined by choice, and two again by choice. Nothing is written by it. */
export function SamePersons({
  partner,
  read,
  onJoined,
}: {
  partner: string;
  /** Another once both sides were read anew. */
  read: string;
  /** Told how many are joined. */
  onJoined: (count: number) => void;
}) {
  const client = useQueryClient();
  const [isAll, setAll] = useState(false);
  const found = useQuery({
    queryKey: ['merge', partner, 'persons', read],
    queryFn: () => call(routes.samePersons, { params: { id: partner } }),
    // All of it is the customer's: it is not kept longer than it is looked at.
    gcTime: 0,
  });
  const join = useMutation({
    mutationFn: (how: { pair: { one: number; other: number } | null; areOne: boolean }) =>
      call(routes.joinPersons, { params: { id: partner }, body: how }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['merge', partner] }),
  });
  const count = found.data?.pairs.filter(({ isJoined }) => isJoined).length ?? 0;
  useEffect(() => onJoined(count), [count, onJoined]);
  const told = found.data;
  if (!told || told.pairs.length === 0) return null;
  const certain = told.pairs.filter(({ isCertain, isJoined }) => isCertain && !isJoined).length;
  return (
    <Section
      title="The same person twice"
      aside={
        certain > 0 && (
          <Button busy={join.isPending} onClick={() => join.mutate({ pair: null, areOne: true })}>
            Join {countOf(certain, 'certain pair')}
          </Button>
        )
      }
    >
      {join.error && <ProblemNote problem={problemFrom(join.error)} />}
      <table aria-label="The same person twice" className="w-full border-collapse text-small">
        <tbody>
          {(isAll ? told.pairs : told.pairs.slice(0, FIRST)).map((pair) => (
            <Pair
              key={`${pair.one} ${pair.other}`}
              pair={pair}
              onJoin={(areOne) =>
                join.mutate({ pair: { one: pair.one, other: pair.other }, areOne })
              }
            />
          ))}
        </tbody>
      </table>
      {!isAll && told.pairs.length > FIRST && (
        <div>
          <Button onClick={() => setAll(true)}>Show all {formatCount(told.pairs.length)}</Button>
        </div>
      )}
      {isAll && told.total > told.pairs.length && (
        <p className="text-small text-soft">
          And {formatCount(told.total - told.pairs.length)} less likely ones.
        </p>
      )}
    </Section>
  );
}

function Pair({
  pair: { names, details, reasons, isCertain, isJoined },
  onJoin,
}: {
  pair: Told['pairs'][number];
  onJoin: (areOne: boolean) => void;
}) {
  const [one, other] = names;
  const both = `${one || 'Without a name'} and ${other || 'without a name'}`;
  return (
    <tr className="border-t border-line align-top *:py-1.5">
      {[0, 1].map((at) => (
        <td key={at} className="w-[30%] pr-4">
          <span className="font-semibold break-words">
            {(at === 0 ? one : other) || 'Without a name'}
          </span>
          <span className="block break-words text-soft">{details[at]}</span>
        </td>
      ))}
      <td className="pr-4">
        {isCertain && <strong className="block">Certain</strong>}
        {reasons.map((reason) => personReasons[reason].says).join(', ')}
      </td>
      <td className="text-right">
        <Button
          aria-label={isJoined ? `Two again: ${both}` : `One person: ${both}`}
          onClick={() => onJoin(!isJoined)}
        >
          {isJoined ? 'Two again' : 'One person'}
        </Button>
      </td>
    </tr>
  );
}
