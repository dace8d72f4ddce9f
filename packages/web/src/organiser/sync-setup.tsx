import type { PartnerTold } from '@bright-cellar/contract';
import {
  syncedKinds,
  type ConflictRule,
  type SyncDirection,
  type SyncedKind,
  type SyncSetup,
} from '@bright-cellar/core';
import { Choice, YesNo } from '../design/choice.js';

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
const ruleNames: Record<ConflictRule, string> = {
  ask: 'Ask',
  device: 'The device counts',
  partner: 'Their books count',
  newer: 'The newer counts',
  both: 'Keep both',
};

/** Which of their books, which way, and whose word counts where both sides changed the same. */
export function SetUp({
  books,
  setup,
  mayWrite,
  onChange,
}: {
  books: PartnerTold['books'];
  setup: SyncSetup;
  /** Whether the device takes anything. */
  mayWrite: boolean;
  onChange: (setup: SyncSetup) => void;
}) {
  const kinds = syncedKinds.filter((kind) => books.some((book) => book.kind === kind));
  const directions = mayWrite ? directionNames : { 'off-device': directionNames['off-device'] };
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
          <Choice
            label={`${kindNames[kind]}: which way`}
            value={setup.ways[kind].direction}
            options={directions}
            onChange={(direction) => change(kind, { direction })}
          />
          {setup.ways[kind].direction === 'both' && (
            <Choice
              label={`${kindNames[kind]}: where both changed the same`}
              value={setup.ways[kind].rule}
              options={ruleNames}
              onChange={(rule) => change(kind, { rule })}
            />
          )}
        </fieldset>
      ))}
    </div>
  );
}
