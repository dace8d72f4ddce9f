import { useQuery } from '@tanstack/react-query';
import type { Look } from '@bright-cellar/contract';
import { formatBytes, formatRate } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { Check, OctagonX } from 'lucide-react';
import { useNavigate } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { DataTable } from '../design/data-table.js';
import { levelNames } from '../design/level-words.js';
import { Mark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

/** The ledger of a rack's care: every look at what lies there, and what they say of the rack itself. */
export function LooksSection({ rackId }: { rackId: string }) {
  const found = useQuery(queries.rackLooks(rackId));
  const navigate = useNavigate();
  if (found.error) return <ProblemNote problem={problemFrom(found.error)} />;
  if (!found.data) return null;
  const { looks, health } = found.data;
  return (
    <Section
      title="Looks"
      aside={
        health.rate !== null && (
          <p className="text-soft">
            reads at {formatRate(health.rate)}
            {health.rateBefore !== null && `, before at ${formatRate(health.rateBefore)}`}
          </p>
        )
      }
    >
      {health.sentence && (
        <p className="border-l-8 border-lamp bg-lamplight px-4 py-2 font-semibold">
          It ails. {health.sentence}
        </p>
      )}
      <DataTable
        label="Looks"
        rows={looks}
        columns={columns}
        onOpen={({ archiveId }) => void navigate(`/archives/${archiveId}`)}
        empty="Nobody looked at what lies here yet. Copies are read back by themselves in quiet hours, as the house rules say."
      />
    </Section>
  );
}

const columns: ColumnDef<Look>[] = [
  { header: 'When', accessorKey: 'at', cell: ({ getValue }) => dateTime(getValue<string>()) },
  {
    header: 'Device',
    accessorKey: 'deviceName',
    meta: { words: true },
    cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
  },
  { header: 'How closely', accessorFn: ({ level }) => levelNames[level] },
  {
    header: 'Read',
    accessorKey: 'readBytes',
    meta: { number: true },
    cell: ({ getValue }) => (getValue<number>() > 0 ? formatBytes(getValue<number>()) : '–'),
  },
  {
    header: 'Rate',
    accessorFn: ({ readBytes, durationMs }) => (readBytes / Math.max(1, durationMs)) * 1000,
    meta: { number: true },
    cell: ({ getValue }) => (getValue<number>() > 0 ? formatRate(getValue<number>()) : '–'),
  },
  {
    header: 'Found',
    accessorKey: 'outcome',
    cell: ({ row: { original } }) =>
      original.outcome === 'whole' ? (
        <Mark icon={<Check />} tone="proven">
          Whole
        </Mark>
      ) : (
        <span title={original.what}>
          <Mark icon={<OctagonX />} tone="danger">
            Damaged
          </Mark>
        </span>
      ),
  },
  { header: 'By', accessorKey: 'by' },
];
