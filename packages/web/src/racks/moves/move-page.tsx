import { useQuery } from '@tanstack/react-query';
import type { MoveStep, Operation } from '@bright-cellar/contract';
import { countOf, formatBytes, isOver, type MoveState } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { Check, CircleDashed, CircleSlash, MoveRight } from 'lucide-react';
import type { ReactNode } from 'react';
import { useNavigate, useParams } from 'react-router';
import { problemFrom } from '../../api/call.js';
import { queries } from '../../api/queries.js';
import { DataTable } from '../../design/data-table.js';
import { Loading } from '../../design/loading.js';
import { Mark } from '../../design/mark.js';
import { ProblemNote } from '../../design/note.js';
import { Page, Section } from '../../design/page.js';
import { Serial } from '../../design/serial.js';
import { OperationPanel } from '../../operation/operation-panel.js';

/** A move plan that is carried out: how far it is, and each of its moves. */
export function MovePage() {
  const { id = '' } = useParams();
  const navigate = useNavigate();
  const operation = useQuery(queries.operation(id));
  const steps = useQuery(queries.moveSteps(id));
  const error = operation.error ?? steps.error;
  if (error) {
    return (
      <Page title="Moves" now="Go back to the racks and choose again." calm>
        <ProblemNote problem={problemFrom(error)} />
      </Page>
    );
  }
  if (!operation.data || !steps.data) return <Loading what="Looking how far it is" />;
  const { needs, problem } = operation.data;
  return (
    <Page
      title="Moves"
      now={sentenceOf(operation.data, steps.data)}
      calm={needs === null && problem === null}
    >
      <OperationPanel id={id} />
      <Section title="Moves, in their order">
        <DataTable
          label="Moves in their order"
          rows={steps.data}
          columns={columns}
          onOpen={({ archiveId }) => void navigate(`/archives/${archiveId}`)}
          empty="It has no moves."
        />
      </Section>
    </Page>
  );
}

function sentenceOf({ state, needs, problem }: Operation, steps: readonly MoveStep[]): string {
  if (needs) return needs;
  if (problem) return problem.next;
  if (!isOver(state))
    return 'Nothing needs you: every archive keeps its copy until another was read back.';
  const left = steps.filter((step) => step.state === 'left').length;
  return left === 0
    ? 'Nothing needs you: every archive lies where it was to go.'
    : `${countOf(left, 'archive')} stayed where they were: below is why.`;
}

const marks: Record<MoveState, ReactNode> = {
  waiting: (
    <Mark icon={<CircleDashed />} tone="soft">
      Waiting
    </Mark>
  ),
  copied: (
    <Mark icon={<MoveRight />} tone="plain">
      Copied, read back
    </Mark>
  ),
  removing: (
    <Mark icon={<MoveRight />} tone="plain">
      Being removed where it was
    </Mark>
  ),
  done: (
    <Mark icon={<Check />} tone="proven">
      Moved
    </Mark>
  ),
  left: (
    <Mark icon={<CircleSlash />} tone="soft">
      Left where it was
    </Mark>
  ),
};

const columns: ColumnDef<MoveStep>[] = [
  { header: 'Turn', accessorFn: ({ step }) => step + 1, meta: { number: true } },
  {
    header: 'Device',
    accessorFn: ({ deviceName }) => deviceName ?? 'not there any more',
    meta: { words: true },
    cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
  },
  {
    header: 'Customer',
    accessorFn: ({ customerName }) => customerName ?? '',
    meta: { words: true },
  },
  {
    header: 'Ticket',
    accessorFn: ({ ticketNumber }) => ticketNumber ?? '',
    cell: ({ getValue }) => <Serial>{getValue<string>()}</Serial>,
  },
  {
    header: 'Size',
    accessorKey: 'bytes',
    meta: { number: true },
    cell: ({ getValue }) => formatBytes(getValue<number>()),
  },
  { header: 'From', accessorKey: 'from' },
  { header: 'Onto', accessorFn: ({ to, detour }) => to + (detour ? ', on its way' : '') },
  {
    header: 'How far',
    accessorKey: 'state',
    cell: ({ row: { original } }) => marks[original.state],
  },
  { header: 'Why', accessorKey: 'why', meta: { words: true } },
];
