import { useQuery } from '@tanstack/react-query';
import type { PersonRow } from '@bright-cellar/contract';
import { permissions, permissionIds, roleIds, roleNames, roles } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { onlyWords, useMay } from '../account/may.js';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { DataTable } from '../design/data-table.js';
import { dateTime, day } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { AddPersonOverlay, ChangePersonOverlay } from './person-overlays.js';

/** Who works here, as what, and what that means. */
export function PeoplePage() {
  const may = useMay()('people');
  const people = useQuery({ ...queries.people(), enabled: may });
  const [asked, setAsked] = useState<'new' | PersonRow | null>(null);
  if (!may) {
    return (
      <Page title="People" now={onlyWords('people')} calm>
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
          columns={columns}
          onOpen={setAsked}
          empty="Nobody works here."
        />
      </Section>
      {gone.length > 0 && (
        <Section title="Were here">
          <DataTable label="Were here" rows={gone} columns={columns} empty="" />
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

const columns: ColumnDef<PersonRow>[] = [
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
  { header: 'Works as', accessorFn: ({ role }) => roleNames[role] },
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

/** Each thing that can be done here, and who may. */
function RoleTable() {
  return (
    <Section title="What each may do">
      <div className="overflow-x-auto border border-line bg-surface">
        <table className="w-full">
          <thead>
            <tr className="border-b border-edge text-left text-small">
              <th className="px-2 py-1.5">To</th>
              {roleIds.map((role) => (
                <th key={role} className="w-32 px-2 py-1.5">
                  {roleNames[role]}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {permissionIds.map((permission) => (
              <tr key={permission} className="h-8 border-b border-line last:border-0">
                <th scope="row" className="px-2 text-left font-normal">
                  {permissions[permission]}
                </th>
                {roleIds.map((role) => (
                  <td key={role} className="px-2">
                    {(roles[role] as readonly string[]).includes(permission) ? (
                      'may'
                    ) : (
                      <span className="text-soft">may not</span>
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Section>
  );
}
