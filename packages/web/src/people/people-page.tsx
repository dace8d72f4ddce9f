import { useQuery } from '@tanstack/react-query';
import type { PersonRow, RoleRow } from '@bright-cellar/contract';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { useMay, useOnlyWords } from '../account/may.js';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { DataTable } from '../design/data-table.js';
import { dateTime, day } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { nameOf, RoleTable } from './role-table.js';
import { AddPersonOverlay, ChangePersonOverlay } from './person-overlays.js';

/** Who works here, as what, and what that means. */
export function PeoplePage() {
  const may = useMay()('people');
  const onlyWords = useOnlyWords()('people');
  const roles = useQuery(queries.roles()).data ?? [];
  const people = useQuery({ ...queries.people(), enabled: may });
  const [asked, setAsked] = useState<'new' | PersonRow | null>(null);
  if (!may) {
    return (
      <Page title="People" now={onlyWords} calm>
        <RoleTable />
      </Page>
    );
  }
  if (people.error) return <ProblemNote problem={problemFrom(people.error)} />;
  if (!people.data) return <Loading what="Asking who is there" />;
  const here = people.data.filter(({ leftAt }) => leftAt === null);
  const gone = people.data.filter(({ leftAt }) => leftAt !== null);
  const alone = here.filter(({ role }) => role === 'keeper').length === 1;
  return (
    <Page
      title="People"
      now="Say who works here, and as what. What they do goes on record under their name."
      calm
      aside={
        <Button look="main" onClick={() => setAsked('new')}>
          Add somebody
        </Button>
      }
    >
      {alone && (
        <Note>
          One person keeps this shop. Make a second one a keeper: if the first forgets their
          password, nobody else can let them in again.
        </Note>
      )}
      <Section title="Here">
        <DataTable
          label="Here"
          rows={here}
          columns={columnsWith(roles)}
          onOpen={setAsked}
          empty="Nobody works here."
        />
      </Section>
      {gone.length > 0 && (
        <Section title="Were here">
          <DataTable label="Were here" rows={gone} columns={columnsWith(roles)} empty="" />
        </Section>
      )}
      <RoleTable />
      {asked === 'new' && <AddPersonOverlay onClose={() => setAsked(null)} />}
      {asked !== null && asked !== 'new' && (
        <ChangePersonOverlay person={asked} onClose={() => setAsked(null)} />
      )}
    </Page>
  );
}

const columnsWith = (roles: readonly RoleRow[]): ColumnDef<PersonRow>[] => [
  {
    header: 'Name',
    accessorKey: 'name',
    meta: { words: true },
    cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
  },
  {
    header: 'Signs in as',
    accessorKey: 'login',
    cell: ({ getValue }) => <Serial>{getValue<string>()}</Serial>,
  },
  { header: 'Works as', accessorFn: ({ role }) => nameOf(roles, role) },
  { header: 'Since', accessorKey: 'since', cell: ({ getValue }) => day(getValue<string>()) },
  {
    header: 'Last here',
    accessorFn: ({ seenAt }) => seenAt ?? '',
    cell: ({ row: { original } }) =>
      original.leftAt
        ? `left ${day(original.leftAt)}`
        : original.seenAt
          ? dateTime(original.seenAt)
          : 'not signed in',
  },
];
