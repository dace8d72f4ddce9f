import type { PartnerTold } from '@bright-cellar/contract';
import {
  fieldNames,
  sparableParts,
  syncedKinds,
  type ConflictRule,
  type SyncDirection,
  type SyncedKind,
  type SyncSetup,
} from '@bright-cellar/core';
import { Choice, YesNo } from '../design/choice.js';
import { otherSides } from './other-side.js';

export const kindNames: Record<SyncedKind, string> = {
  contacts: 'Contacts',
  events: 'Calendar',
  tasks: 'Tasks',
  notes: 'Memos',
};

const directionNames: Record<SyncDirection, string> = {
  both: 'Both ways',
  'onto-device': 'Only onto the device',
  'off-device': 'Only off the device',
};
const ruleNames = (kind: PartnerTold['kind']): Record<ConflictRule, string> => ({
  ask: 'Ask',
  device: 'The device counts',
  partner: otherSides[kind].counts,
  newer: 'The newer counts',
  both: 'Keep both',
});

/** Which of their books, which way, and whose word counts where both sides changed the same. */
export function SetUp({
  partner,
  books,
  setup,
  directions,
  onChange,
}: {
  partner: PartnerTold;
  books: PartnerTold['books'];
  setup: SyncSetup;
  /** Those in which something can be written. */
  directions: readonly SyncDirection[];
  onChange: (setup: SyncSetup) => void;
}) {
  const kinds = syncedKinds.filter((kind) => books.some((book) => book.kind === kind));
  const ways = Object.fromEntries(directions.map((way) => [way, directionNames[way]]));
  const change = (kind: SyncedKind, part: Partial<SyncSetup['ways'][SyncedKind]>) =>
    onChange({
      ...setup,
      ways: { ...setup.ways, [kind]: { ...setup.ways[kind], ...part } },
    });
  return (
    <div className="flex flex-col gap-5">
      {kinds.map((kind) => (
        <fieldset key={kind} className="flex flex-col gap-2">
          <legend className="pb-1 font-semibold">{kindNames[kind]}</legend>
          {books
            .filter((book) => book.kind === kind)
            .map(({ id, name }) => (
              <YesNo
                key={id}
                label={name}
                checked={setup.books.some((book) => book.id === id && book.kind === kind)}
                onChange={(on) =>
                  onChange({
                    ...setup,
                    books: on
                      ? [...setup.books, { id, kind }]
                      : setup.books.filter((book) => book.id !== id || book.kind !== kind),
                  })
                }
              />
            ))}
          {chosenOf(setup, kind).length > 1 && setup.ways[kind].direction !== 'onto-device' && (
            <Choice
              label={`${kindNames[kind]}: what is new on the device goes into`}
              value={chosenOf(setup, kind)[0]?.id ?? ''}
              options={Object.fromEntries(
                chosenOf(setup, kind).map(({ id }) => [
                  id,
                  books.find((book) => book.id === id && book.kind === kind)?.name ?? '',
                ]),
              )}
              onChange={(id) => onChange({ ...setup, books: withFirst(setup.books, kind, id) })}
            />
          )}
          {isChosen(setup, kind) && (
            <Choice
              label={`${kindNames[kind]}: which way`}
              value={setup.ways[kind].direction}
              options={ways}
              onChange={(direction) => change(kind, { direction })}
            />
          )}
          {isChosen(setup, kind) && setup.ways[kind].direction === 'both' && (
            <Choice
              label={`${kindNames[kind]}: where both changed the same`}
              value={setup.ways[kind].rule}
              options={ruleNames(partner.kind)}
              onChange={(rule) => change(kind, { rule })}
            />
          )}
          {isChosen(setup, kind) && sparableParts[kind].length > 0 && (
            <details>
              <summary className="cursor-pointer text-small underline">
                {`${kindNames[kind]}: ${partsIn(setup, kind)}`}
              </summary>
              <div className="flex flex-col gap-2 pt-2">
                {sparableParts[kind].map((part) => (
                  <YesNo
                    key={part}
                    label={fieldNames[part]}
                    checked={!setup.ways[kind].without.includes(part)}
                    onChange={(on) =>
                      change(kind, {
                        without: on
                          ? setup.ways[kind].without.filter((one) => one !== part)
                          : [...setup.ways[kind].without, part],
                      })
                    }
                  />
                ))}
              </div>
            </details>
          )}
        </fieldset>
      ))}
    </div>
  );
}

const chosenOf = ({ books }: SyncSetup, kind: SyncedKind): SyncSetup['books'] =>
  books.filter((book) => book.kind === kind);
/** The first of a kind takes what is new. */
const withFirst = (books: SyncSetup['books'], kind: SyncedKind, id: string): SyncSetup['books'] => {
  const isFirst = (book: SyncSetup['books'][number]) => book.kind === kind && book.id === id;
  return [...books.filter(isFirst), ...books.filter((book) => !isFirst(book))];
};
const isChosen = (setup: SyncSetup, kind: SyncedKind): boolean => chosenOf(setup, kind).length > 0;

const partsIn = ({ ways }: SyncSetup, kind: SyncedKind): string => {
  const { without } = ways[kind];
  return without.length === 0
    ? 'all their parts'
    : `without ${without.map((part) => fieldNames[part].toLowerCase()).join(', ')}`;
};
