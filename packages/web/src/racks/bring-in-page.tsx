import { useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Stranger } from '@bright-cellar/contract';
import { countOf, formatBytes, formatCount, rackIdSchema } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { DataTable } from '../design/data-table.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { PasswordField } from '../password/password-field.js';

/** What became of one that was asked for: work that began, or why it did not. */
type Outcome = { operation: string } | { refused: string };
const keyOf = ({ rackId, folder, path }: Stranger) => path ?? `${rackId ?? ''}/${folder}`;

/** Takes archives that the catalogue does not know into it: from racks, from any folder, whatever they are called. */
export function BringInPage() {
  const client = useQueryClient();
  const [typed, setTyped] = useState('');
  const [path, setPath] = useState('');
  const [password, setPassword] = useState('');
  const [onto, setOnto] = useState('');
  const [outcomes, setOutcomes] = useState<ReadonlyMap<string, Outcome>>(new Map());
  const [isBusy, setBusy] = useState(false);
  const found = useQuery(queries.strangers(path));
  const racks = (useQuery(queries.racks()).data ?? []).filter((rack) => rack.present);
  const target = racks.find(({ id }) => id === onto) ?? racks[0];
  const rows = found.data ?? [];
  const waiting = rows.filter((row) => row.problem === '' && !outcomes.has(keyOf(row)));

  async function bringIn(some: readonly Stranger[]) {
    setBusy(true);
    const next = new Map(outcomes);
    for (const row of some) {
      try {
        const rackId = rackIdSchema.parse(row.rackId ?? target?.id);
        const { folder } = row;
        const operation = await call(routes.startBringIn, {
          params: {},
          body: { rackId, folder: row.path === null ? folder : null, path: row.path, password },
        });
        placeOperation(client, operation);
        next.set(keyOf(row), { operation: operation.id });
      } catch (error) {
        const { what, next: todo } = problemFrom(error);
        next.set(keyOf(row), { refused: `${what} ${todo}` });
      }
      setOutcomes(new Map(next));
    }
    setBusy(false);
  }

  return (
    <Page title="Bring in" now={whatNow(found.data, outcomes)} calm={rows.length === 0}>
      <div className="flex flex-wrap items-end gap-4">
        <TextField
          label="A folder of this computer"
          mono
          className="min-w-80 flex-1"
          value={typed}
          placeholder="Empty: all racks that are here"
          onChange={({ target: { value } }) => setTyped(value)}
        />
        <Button
          busy={found.isFetching}
          onClick={() => {
            setOutcomes(new Map());
            setPath(typed.trim());
            if (typed.trim() === path) void found.refetch();
          }}
        >
          Look there
        </Button>
      </div>
      {found.error && <ProblemNote problem={problemFrom(found.error)} />}
      <Section
        title="Found, and not in the catalogue"
        aside={<p className="text-soft">Whatever it is called</p>}
      >
        {rows.length > 0 && (
          <form
            className="flex flex-wrap items-start gap-4"
            onSubmit={(event) => {
              event.preventDefault();
              void bringIn(waiting);
            }}
          >
            <PasswordField
              className="w-80"
              value={password}
              hint="It says whose device it is. Not needed for a copy of what is known."
              onChange={setPassword}
            />
            {path !== '' && target && (
              <div className="w-80">
                <Choice
                  label="Onto"
                  value={target.id}
                  options={Object.fromEntries(racks.map(({ id, name }) => [id, name]))}
                  onChange={setOnto}
                />
              </div>
            )}
            <MayButton
              permission={routes.startBringIn.access}
              type="submit"
              look="main"
              className="mt-[27px]"
              disabled={waiting.length === 0}
              busy={isBusy}
            >
              {waiting.length > 0 ? `Bring ${countOf(waiting.length, 'archive')} in` : 'Bring in'}
            </MayButton>
          </form>
        )}
        <DataTable
          label="Archives that are not in the catalogue"
          rows={rows}
          columns={columnsWith(outcomes)}
          onOpen={(row) => row.problem === '' && void bringIn([row])}
          empty={
            found.isPending ? 'Looking.' : 'Every archive that lies there is in the catalogue.'
          }
        />
      </Section>
      {[...outcomes].map(([key, outcome]) =>
        'operation' in outcome ? (
          <Section key={key} title="Brought in">
            <OperationPanel id={outcome.operation} />
          </Section>
        ) : null,
      )}
    </Page>
  );
}

function whatNow(
  rows: readonly Stranger[] | undefined,
  outcomes: ReadonlyMap<string, Outcome>,
): string {
  if (!rows) return 'Looking at what lies there.';
  const refused = [...outcomes.values()].filter((outcome) => 'refused' in outcome).length;
  if (refused > 0)
    return `${countOf(refused, 'archive')} did not come in: beside it stands why. Type another password and press once more.`;
  if (rows.length === 0) return 'Nothing needs you: the catalogue knows all that lies there.';
  const found = `Found: ${countOf(rows.length, 'archive')} that the catalogue does not know there.`;
  return rows.every(({ known }) => known === 'same')
    ? `${found} Bring in what is a copy of what it knows: it is read back whole first.`
    : `${found} Type the password, and bring in what it opens: it is read back whole first.`;
}

const knownWords = {
  unknown: 'Not known',
  same: 'A copy of what is known',
  other: 'Another state of what is known',
} as const;

const columnsWith = (outcomes: ReadonlyMap<string, Outcome>): ColumnDef<Stranger>[] => [
  {
    header: 'Name there',
    id: 'folder',
    accessorFn: ({ folder, path }) => path ?? folder,
    meta: { words: true },
  },
  { header: 'Rack', id: 'rack', accessorFn: ({ rackName }) => rackName || '–' },
  {
    header: 'Stored',
    id: 'stored',
    accessorFn: ({ storedBytes }) => storedBytes,
    cell: ({ row }) => formatBytes(row.original.storedBytes),
    meta: { number: true },
  },
  {
    header: 'Backups',
    id: 'backups',
    accessorFn: ({ backups }) => backups,
    cell: ({ row }) => formatCount(row.original.backups),
    meta: { number: true },
  },
  {
    header: 'What is known',
    id: 'known',
    accessorFn: ({ known }) => knownWords[known],
    cell: ({ row }) => knownOf(row.original, outcomes.get(keyOf(row.original))),
    meta: { words: true },
  },
];

function knownOf(
  { known, deviceName, missing, problem }: Stranger,
  outcome: Outcome | undefined,
): string {
  if (outcome) return 'refused' in outcome ? outcome.refused : 'Being brought in: see below';
  if (problem) return problem;
  const gone = missing > 0 ? `; ${countOf(missing, 'file')} missing` : '';
  return `${knownWords[known]}${deviceName ? `, ${deviceName}` : ''}${gone}`;
}
