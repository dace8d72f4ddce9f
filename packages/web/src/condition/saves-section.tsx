import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type SavesView } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { DataTable } from '../design/data-table.js';
import { dateTime, day } from '../design/dates.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { RecoveryKeyOverlay } from './recovery-key-overlay.js';

/** The catalogue itself: what its saves are sealed to, and on which rack the last of them lies. */
export function SavesSection() {
  const client = useQueryClient();
  const saves = useQuery(queries.saves()).data;
  const [making, setMaking] = useState(false);
  const save = useMutation({
    mutationFn: () => call(routes.saveCatalogue),
    onSuccess: async (now) => {
      client.setQueryData(queries.saves().queryKey, now);
      await client.invalidateQueries({ queryKey: queries.condition().queryKey });
    },
  });
  if (!saves) return null;
  return (
    <Section
      title="The saved catalogue"
      aside={
        <span className="flex items-start gap-2">
          <MayButton permission="house-rules" onClick={() => setMaking(true)}>
            {saves.key ? 'Another recovery key' : 'Make the recovery key'}
          </MayButton>
          <MayButton
            permission="look-after-racks"
            disabled={saves.key === null}
            busy={save.isPending}
            onClick={() => save.mutate()}
          >
            Save it now
          </MayButton>
        </span>
      }
    >
      <p className="max-w-3xl">
        {saves.key
          ? `Sealed to the recovery key of ${day(saves.key.since)}, once a night, onto every rack that is here. With that key and one rack the shop is set up again on another computer.`
          : 'Tickets, customers, agreements and the record are on this computer only. Once somebody keeps a recovery key on paper, they are saved onto the racks every night, sealed.'}
      </p>
      {save.error && <ProblemNote problem={problemFrom(save.error)} />}
      <DataTable
        label="The saved catalogue"
        rows={saves.racks}
        columns={columns}
        empty="There is no rack yet. Add one under Racks."
      />
      {making && <RecoveryKeyOverlay onClose={() => setMaking(false)} />}
    </Section>
  );
}

const columns: ColumnDef<SavesView['racks'][number]>[] = [
  { header: 'Rack', accessorKey: 'rackName', meta: { words: true } },
  { header: 'Is', accessorFn: ({ present }) => (present ? 'here' : 'away') },
  {
    header: 'Last save there',
    accessorFn: ({ savedAt }) => savedAt ?? '',
    cell: ({ row: { original } }) => (original.savedAt ? dateTime(original.savedAt) : 'none'),
  },
  {
    header: 'Size',
    accessorFn: ({ bytes }) => bytes ?? 0,
    meta: { number: true },
    cell: ({ row: { original } }) => (original.bytes === null ? '–' : formatBytes(original.bytes)),
  },
  {
    header: 'Last try',
    accessorFn: ({ problem, savedAt }) => problem ?? (savedAt ? 'read back, whole' : ''),
    meta: { words: true },
  },
];
