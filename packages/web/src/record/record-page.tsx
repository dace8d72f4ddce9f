import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { AUDIT_EXPORT_PATH, type RecordEntry } from '@bright-cellar/contract';
import { auditGroupIds, auditGroupName, countOf, type AuditGroup } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { Link } from 'react-router';
import { useMay, useWhoMay } from '../account/may.js';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { buttonShape } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { DataTable } from '../design/data-table.js';
import { dateTime } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { CheckSection } from './check-section.js';

/** Who did what, and whether anybody changed that afterwards. */
export function RecordPage() {
  const whoMayIt = useWhoMay();
  if (!useMay()('audit')) {
    return (
      <Page title="Record" now={`Only ${whoMayIt('audit')} may read this.`} calm>
        <p>What was done on a ticket stands on the ticket, for everybody.</p>
      </Page>
    );
  }
  return (
    <Page
      title="Record"
      now="Look up who did what. Who changes an entry afterwards breaks its seal."
      calm
    >
      <CheckSection />
      <Entries />
    </Page>
  );
}

const everything = { who: '', group: '' as AuditGroup | '', ticket: '', from: '', to: '' };
/** A choice has no empty value. */
const ALL = 'all';

function Entries() {
  const [ask, setAsk] = useState(everything);
  const people = useQuery({ ...queries.people(), enabled: useMay()('people') }).data ?? [];
  const { queryKey, page } = queries.record({ ...ask, after: '' });
  const list = useInfiniteQuery({
    queryKey,
    queryFn: ({ pageParam }) => page(pageParam),
    initialPageParam: '',
    getNextPageParam: ({ next }) => next,
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const rows = list.data?.pages.flatMap((one) => one.rows);
  const change = (some: Partial<typeof everything>) => setAsk({ ...ask, ...some });
  const isAll = Object.values(ask).every((one) => one === '');
  return (
    <Section
      title="What was done"
      aside={
        <span className="flex gap-2">
          {(['csv', 'jsonl'] as const).map((format) => (
            <a
              key={format}
              className={buttonShape('plain')}
              href={`${AUDIT_EXPORT_PATH}?${new URLSearchParams({ ...ask, format }).toString()}`}
              download
            >
              {format === 'csv' ? 'Take out as a table' : 'Take out as lines'}
            </a>
          ))}
        </span>
      }
    >
      <div className="grid grid-cols-2 gap-3 lg:grid-cols-5">
        <Choice
          label="Who"
          value={ask.who || ALL}
          options={{
            [ALL]: 'Everybody',
            ...Object.fromEntries(people.map(({ id, name }) => [id, name])),
          }}
          onChange={(who) => change({ who: who === ALL ? '' : who })}
        />
        <Choice
          label="About"
          value={ask.group || ALL}
          options={{ [ALL]: 'Everything', ...groupNames }}
          onChange={(group) => change({ group: group === ALL ? '' : group })}
        />
        <TextField
          label="Ticket"
          mono
          inputMode="numeric"
          maxLength={20}
          value={ask.ticket}
          onChange={({ target }) => change({ ticket: target.value })}
        />
        <TextField
          label="From"
          type="date"
          value={ask.from}
          onChange={({ target }) => change({ from: target.value })}
        />
        <TextField
          label="To and with"
          type="date"
          value={ask.to}
          onChange={({ target }) => change({ to: target.value })}
        />
      </div>
      {list.error && <ProblemNote problem={problemFrom(list.error)} />}
      {rows ? (
        <DataTable
          label="What was done"
          rows={rows}
          columns={columns}
          paged={{
            ...{ sort: 'at', order: 'desc' as const, onSort: () => undefined },
            total: rows.length,
            hasMore: list.hasNextPage,
            onMore: () => {
              if (!list.isFetchingNextPage) void list.fetchNextPage();
            },
          }}
          empty={
            isAll
              ? 'Nothing was done yet.'
              : 'Nothing of that is on record. Take one of the conditions away.'
          }
        />
      ) : (
        !list.error && <Loading what="Reading the record" />
      )}
      {rows && (
        <p role="status" className="text-small text-soft">
          {list.hasNextPage
            ? `The newest ${countOf(rows.length, 'entry', 'entries')}; more come as you go down.`
            : `${countOf(rows.length, 'entry', 'entries')} in all.`}
        </p>
      )}
    </Section>
  );
}

const groupNames = Object.fromEntries(
  auditGroupIds.map((group) => [group, auditGroupName(group)]),
) as Record<AuditGroup, string>;

const columns: ColumnDef<RecordEntry>[] = [
  {
    header: 'When',
    id: 'at',
    enableSorting: false,
    accessorKey: 'at',
    cell: ({ getValue }) => dateTime(getValue<string>()),
  },
  {
    header: 'Who',
    enableSorting: false,
    accessorFn: ({ by }) => by ?? '',
    cell: ({ row: { original } }) => original.by ?? <span className="text-soft">the program</span>,
  },
  {
    header: 'Ticket',
    enableSorting: false,
    accessorFn: ({ ticketNumber }) => ticketNumber ?? '',
    cell: ({ row: { original } }) =>
      original.ticketNumber && (
        <Link className="underline" to={`/tickets/${original.ticketNumber}`}>
          <Serial>{original.ticketNumber}</Serial>
        </Link>
      ),
  },
  { header: 'What', enableSorting: false, accessorKey: 'what', meta: { words: true } },
];
