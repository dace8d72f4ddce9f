import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type OwedCopy } from '@bright-cellar/contract';
import { countOf, formatBytes, formatCount } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useNavigate } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { DataTable } from '../design/data-table.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { useKey } from '../design/use-key.js';

/** Copies that the house rules ask for and that are not there: what can be made now is made with one press. */
export function OwedSection() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const care = useQuery(queries.care());
  const pay = useMutation({
    mutationFn: () => call(routes.payOwed),
    onSuccess: (now) => client.setQueryData(queries.care().queryKey, now),
  });
  const able = care.data?.owed.rows.filter(({ rackName }) => rackName !== null).length ?? 0;
  const canPay = able > 0 && care.data?.paying === false && !pay.isPending;
  const payNow = pay.mutate;
  useKey('p', () => canPay && payNow());
  if (care.error) return <ProblemNote problem={problemFrom(care.error)} />;
  if (!care.data) return null;
  const { owed, checksDue, paying } = care.data;
  if (owed.total === 0)
    return <p className="text-soft">No copy is owed. {checkWords(checksDue)}</p>;
  return (
    <Section
      title="Owed copies"
      aside={
        <span className="flex items-center gap-3">
          <span className="text-soft">
            {owed.isMore && 'more than '}
            {countOf(owed.total, 'archive')} by the house rules
          </span>
          <MayButton
            permission={routes.payOwed.access}
            disabled={able === 0 || paying}
            busy={pay.isPending}
            aria-keyshortcuts="P"
            onClick={() => pay.mutate()}
          >
            {paying ? 'Being made, one after the other' : 'Make what can be made'}
          </MayButton>
        </span>
      }
    >
      {pay.error && <ProblemNote problem={problemFrom(pay.error)} />}
      <DataTable
        label="Owed copies"
        rows={owed.rows}
        columns={columns}
        onOpen={({ archiveId }) => void navigate(`/archives/${archiveId}`)}
        empty="No copy is owed."
      />
      <p className="text-small text-soft">
        {owed.total > owed.rows.length &&
          `The first ${formatCount(owed.rows.length)}, those with the fewest copies before others. `}
        {checkWords(checksDue)}
      </p>
    </Section>
  );
}

function checkWords(due: number): string {
  if (due === 0) return 'No check is due.';
  return due === 1
    ? 'One check is due, and is made by itself in quiet hours.'
    : `${formatCount(due)} checks are due, and are made by themselves in quiet hours.`;
}

const columns: ColumnDef<OwedCopy>[] = [
  {
    header: 'Device',
    accessorKey: 'deviceName',
    meta: { words: true },
    cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
  },
  { header: 'Customer', accessorKey: 'customerName', meta: { words: true } },
  {
    header: 'Size',
    accessorKey: 'storedBytes',
    meta: { number: true },
    cell: ({ getValue }) => formatBytes(getValue<number>()),
  },
  {
    header: 'Owed',
    accessorFn: ({ copies, offPremises }) =>
      countOf(copies, 'copy', 'copies') + (offPremises ? ', one off the premises' : ''),
  },
  {
    header: 'Goes onto',
    accessorFn: ({ rackName, why }) => rackName ?? why ?? '',
    cell: ({ row: { original } }) =>
      original.rackName ?? <span className="text-soft">{original.why}</span>,
  },
];
