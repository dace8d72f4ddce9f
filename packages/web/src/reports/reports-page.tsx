import { useQuery } from '@tanstack/react-query';
import type { Operation } from '@bright-cellar/contract';
import {
  countOf,
  failedCount,
  formatBytes,
  formatDuration,
  formatRate,
  isOver,
  operations,
  phaseName,
  type OperationResult,
} from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { addDays, format } from 'date-fns';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { useCallback, useState } from 'react';
import { useNavigate } from 'react-router';
import { queries } from '../api/queries.js';
import { Button, ButtonLink } from '../design/button.js';
import { DataTable } from '../design/data-table.js';
import { Figure } from '../design/figures.js';
import { Loading } from '../design/loading.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { useNow } from '../design/use-now.js';
import { usePaged } from '../design/use-paged.js';
import { Chart, type Inks } from '../design/chart.js';
import { errorsChart, hoursChart, hoursShown } from './day-charts.js';

/** What the bench did on a day, hour by hour, and how well the shop's estimates come out. */
export function ReportsPage() {
  const [day, setDay] = useState(() => new Date());
  const name = format(day, 'yyyy-MM-dd');
  const report = useQuery(queries.dayReport(name)).data;
  const list = usePaged(queries.dayRuns(name), { sort: 'started', order: 'desc' });
  const navigate = useNavigate();
  const isToday = name === format(useNow(), 'yyyy-MM-dd');
  const throughput = useCallback(
    (inks: Inks) => hoursChart(hoursShown(report?.hours ?? []), inks),
    [report],
  );
  const errors = useCallback((inks: Inks) => errorsChart(report?.estimates ?? [], inks), [report]);
  if (!report || !list.rows) return <Loading what="Adding up the day" />;
  const failed = report.hours.reduce((sum, h) => sum + h.failed, 0);
  const runs = report.hours.reduce((sum, h) => sum + h.runs, 0);
  const bytes = report.hours.reduce((sum, h) => sum + h.bytes, 0);
  const { estimates } = report;
  return (
    <Page
      title={`The bench on ${format(day, 'd MMM yyyy')}`}
      now={
        failed > 0
          ? `${countOf(failed, 'run')} ended badly: look at why below.`
          : 'Nothing needs you: this page only tells.'
      }
      calm={failed === 0}
      aside={
        <span className="flex gap-2">
          <ButtonLink to="/day">Opening sheet</ButtonLink>
          <ButtonLink to="/day?sheet=closing">Closing sheet</ButtonLink>
          <Button aria-label="The day before" onClick={() => setDay(addDays(day, -1))}>
            <ChevronLeft />
          </Button>
          <Button
            aria-label="The day after"
            disabled={isToday}
            onClick={() => setDay(addDays(day, 1))}
          >
            <ChevronRight />
          </Button>
        </span>
      }
    >
      <div className="flex flex-wrap gap-8">
        <Figure value={String(runs)}>Runs</Figure>
        <Figure value={String(failed)}>Ended badly</Figure>
        <Figure value={formatBytes(bytes)}>Read and written</Figure>
        {estimates.length >= FEW && (
          <>
            <Figure value={`${share(estimates, (e) => e.storedInRange)} %`} of="expected: 80 %">
              Sizes within their range
            </Figure>
            <Figure value={`${share(estimates, (e) => e.timeInRange)} %`} of="expected: 80 %">
              Times within their range
            </Figure>
          </>
        )}
      </div>
      <div className="grid grid-cols-1 gap-6 xl:grid-cols-2">
        <Section title="Amount by hour">
          <div className="border border-line bg-surface p-3">
            {runs === 0 ? (
              <p className="flex h-[200px] items-center text-soft">
                Nothing ran on this day: what runs is added up here, hour by hour.
              </p>
            ) : (
              <Chart
                label={`Amount by hour: ${report.hours
                  .filter((h) => h.runs > 0)
                  .map((h) => `${h.hour}:00 ${formatBytes(h.bytes)} in ${countOf(h.runs, 'run')}`)
                  .join(', ')}`}
                height={200}
                draw={throughput}
              />
            )}
          </div>
        </Section>
        <Section
          title={
            estimates.length > 1
              ? `How the last ${countOf(estimates.length, 'estimate')} came out`
              : 'How the last estimate came out'
          }
        >
          <div className="border border-line bg-surface p-3">
            {estimates.length === 0 ? (
              <p className="flex h-[200px] items-center text-soft">
                No backup was estimated yet: the first one on a ticket begins this chart.
              </p>
            ) : (
              <Chart
                label="How far sizes and times were from what was expected, in percent, oldest first"
                height={200}
                draw={errors}
              />
            )}
          </div>
        </Section>
      </div>
      <Section title="Runs">
        <DataTable
          label="Runs"
          rows={list.rows}
          columns={runColumns}
          paged={list.paged}
          onOpen={(run) => run.ticketNumber && void navigate(`/tickets/${run.ticketNumber}`)}
          empty="Nothing ran on this day."
        />
      </Section>
    </Page>
  );
}

/** Shares of fewer than these say nothing. */
const FEW = 5;

function share<T>(all: readonly T[], is: (one: T) => boolean): number {
  return Math.round((all.filter(is).length / Math.max(1, all.length)) * 100);
}

/** Of a further backup only what is new went over the cable. */
const carried = (result: OperationResult): number =>
  'newBytes' in result ? result.newBytes : result.bytes;

/** Those that the server sorts by have its names. */
const runColumns: ColumnDef<Operation>[] = [
  {
    header: 'Started',
    id: 'started',
    accessorKey: 'startedAt',
    cell: ({ row }) => format(new Date(row.original.startedAt), 'HH:mm'),
  },
  {
    header: 'Ticket',
    enableSorting: false,
    accessorFn: (o) => o.ticketNumber ?? '',
    cell: ({ row }) => row.original.ticketNumber && <Serial>{row.original.ticketNumber}</Serial>,
  },
  { header: 'Work', id: 'work', accessorFn: (o) => operations[o.kind].name },
  {
    header: 'Device',
    enableSorting: false,
    accessorFn: (o) => o.deviceName ?? '',
    meta: { words: true },
  },
  {
    header: 'Amount',
    enableSorting: false,
    accessorFn: (o) => o.result?.bytes ?? o.doneBytes,
    meta: { number: true },
    cell: ({ getValue }) => formatBytes(getValue<number>()),
  },
  {
    header: 'Duration',
    enableSorting: false,
    accessorFn: (o) => o.result?.durationMs ?? 0,
    meta: { number: true },
    cell: ({ row }) => (row.original.result ? formatDuration(row.original.result.durationMs) : '–'),
  },
  {
    header: 'Rate',
    enableSorting: false,
    accessorFn: ({ result }) =>
      result ? (carried(result) / Math.max(1, result.durationMs)) * 1000 : 0,
    meta: { number: true },
    cell: ({ getValue }) => (getValue<number>() > 0 ? formatRate(getValue<number>()) : '–'),
  },
  {
    header: 'Failed items',
    enableSorting: false,
    accessorFn: (o) => failedCount(o.result?.failed ?? []),
    meta: { number: true },
  },
  {
    header: 'How it ended',
    enableSorting: false,
    accessorFn: (o) => o.problem?.what ?? (!isOver(o.state) ? phaseName(o.kind, o.phase) : 'well'),
    meta: { words: true },
  },
];
