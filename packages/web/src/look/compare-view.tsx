import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ColumnDef } from '@tanstack/react-table';
import {
  routes,
  type ComparedWith,
  type Comparison,
  type LookDifference,
  type LookIn,
} from '@bright-cellar/contract';
import {
  changes,
  countOf,
  dataClasses,
  formatBytes,
  type Change,
  type DataClass,
} from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { dateTime } from '../design/dates.js';
import { Note, ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { LookTable } from './look-table.js';
import { lookKey, lookQueries } from './queries.js';

/** “Is it all there?”: the open backup beside another of its archive, or a device on the bench as it is now. */
export function CompareView({ look }: { look: LookIn }) {
  const client = useQueryClient();
  const archive = useQuery(queries.archive(look.archiveId)).data;
  const bench = useQuery(queries.bench()).data;
  const [chosen, setChosen] = useState('');
  const [begun, setBegun] = useState(0);
  const [password, setPassword] = useState('');
  const isElsewhere = chosen.startsWith('archive ');
  const others = archive?.backups.filter(({ id }) => id !== look.backupId) ?? [];
  const devices = bench?.berths.flatMap(({ number, device }) =>
    device ? [{ number, id: device.id, name: device.name }] : [],
  );
  // Somebody who changes devices wants to know whether all of the old one is on the new one.
  const whose = archive?.customerName ?? '';
  const found = useQuery({
    queryKey: [...queries.archives().queryKey, 'of', whose],
    queryFn: () => queries.archives().page({ text: whose, sort: 'taken', order: 'desc' }, ''),
    enabled: whose !== '',
  }).data;
  const elsewhere = (found?.rows ?? []).filter(
    ({ id, customerName }) => id !== look.archiveId && customerName === whose,
  );
  const options: Record<string, string> = {
    ...Object.fromEntries(
      others.map(({ id, takenAt }) => [`backup ${id}`, `the backup of ${dateTime(takenAt)}`]),
    ),
    ...Object.fromEntries(
      elsewhere.map(({ id, device, takenAt }) => [
        `archive ${id}`,
        `${device.name}, as it was on ${dateTime(takenAt)}`,
      ]),
    ),
    ...Object.fromEntries(
      (devices ?? []).map(({ number, id, name }) => [
        `device ${id}`,
        `${name} on berth ${number}, as it is now`,
      ]),
    ),
  };
  const compare = useMutation({
    mutationFn: () => {
      const [kind, id] = chosen.split(' ');
      const wanted = (
        kind === 'backup'
          ? { backupId: id }
          : kind === 'archive'
            ? { archiveId: id, password }
            : { deviceId: id }
      ) as ComparedWith;
      return call(routes.compareLook, { params: { id: look.id }, body: { with: wanted } });
    },
    onSuccess: (state) => {
      client.setQueryData(lookQueries.comparison(look.id).queryKey, state);
      client.removeQueries({ queryKey: [...lookKey(look.id), 'list'] });
      setBegun(begun + 1);
      setPassword('');
    },
  });
  return (
    <Section title="Is it all there?">
      <form
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          compare.mutate();
        }}
      >
        <div className="min-w-0 flex-1">
          <Choice
            label="Compare this backup with"
            placeholder={
              Object.keys(options).length === 0
                ? 'No other backup, and no device on the bench'
                : 'another backup, or a device'
            }
            value={chosen}
            options={options}
            onChange={setChosen}
          />
        </div>
        {isElsewhere && (
          <TextField
            label="Password of that archive"
            type="password"
            autoComplete="off"
            value={password}
            onChange={({ target }) => setPassword(target.value)}
          />
        )}
        <Button
          type="submit"
          look="main"
          disabled={!(chosen in options) || (isElsewhere && password === '')}
          busy={compare.isPending}
        >
          Compare
        </Button>
      </form>
      {compare.error && <ProblemNote problem={problemFrom(compare.error)} />}
      {begun > 0 && <Outcome key={begun} id={look.id} />}
    </Section>
  );
}

function Outcome({ id }: { id: string }) {
  const { data, error } = useQuery(lookQueries.comparison(id));
  const [asked, setAsked] = useState<{ class: DataClass | null; change: Change | null }>({
    ...{ class: null, change: null },
  });
  if (error) return <ProblemNote problem={problemFrom(error)} />;
  if (!data) return null;
  if (data.trouble !== null) {
    return <Note>{data.trouble} Nothing was changed by it; compare again.</Note>;
  }
  if (data.sentence === null) {
    return <p role="status">Comparing: {countOf(data.looked, 'item')} looked at so far.</p>;
  }
  return (
    <>
      <p
        role="status"
        className="border-l-8 border-line bg-surface px-4 py-2.5 text-large font-semibold"
      >
        {data.sentence}
      </p>
      <ByClass classes={data.classes} onAsk={setAsked} />
      <Items key={`${asked.class} ${asked.change}`} id={id} asked={asked} />
    </>
  );
}

const changeNames: Record<Change, string> = {
  removed: 'Not there any more',
  changed: 'Changed',
  added: 'Added',
  renamed: 'Called otherwise',
  same: 'The same',
};

/** What became of how many, class by class: each figure leads to its items. */
function ByClass({
  classes,
  onAsk,
}: {
  classes: Comparison['classes'];
  onAsk: (asked: { class: DataClass; change: Change }) => void;
}) {
  return (
    <table className="w-full border-collapse text-small" aria-label="Compared class by class">
      <thead>
        <tr className="border-b-2 border-line text-left">
          <th className="py-1 font-semibold">Class</th>
          {changes.map((change) => (
            <th key={change} className="py-1 pl-3 text-right font-semibold">
              {changeNames[change]}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {classes.map(({ class: dataClass, counts }) => (
          <tr key={dataClass} className="border-b border-line">
            <th scope="row" className="py-1 text-left font-normal">
              {dataClasses[dataClass]}
            </th>
            {changes.map((change) => (
              <td key={change} className="py-1 pl-3 text-right tabular-nums">
                {counts[change].items === 0 ? (
                  '–'
                ) : (
                  <button
                    type="button"
                    className="underline"
                    aria-label={`${dataClasses[dataClass]}, ${changeNames[change].toLowerCase()}: ${amountOf(counts[change])}`}
                    onClick={() => onAsk({ class: dataClass, change })}
                  >
                    {amountOf(counts[change])}
                  </button>
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const amountOf = ({ items, bytes }: { items: number; bytes: number }): string =>
  `${items.toLocaleString('en')}, ${formatBytes(bytes)}`;

const columns: ColumnDef<LookDifference>[] = [
  {
    ...{ id: 'change', header: 'What', enableSorting: false },
    cell: ({ row }) => changeNames[row.original.change],
  },
  {
    ...{ id: 'path', header: 'Path on the device', enableSorting: false, meta: { words: true } },
    cell: ({ row: { original } }) =>
      original.change === 'renamed'
        ? `${original.before} is now ${original.after}`
        : (original.before ?? original.after),
  },
  {
    ...{ id: 'bytes', header: 'Size', enableSorting: false, meta: { number: true } },
    cell: ({ row: { original } }) => sizesOf(original),
  },
];

function sizesOf({ bytesBefore, bytesAfter }: LookDifference): string {
  if (bytesBefore === null || bytesAfter === null)
    return formatBytes(bytesBefore ?? bytesAfter ?? 0);
  return bytesBefore === bytesAfter
    ? formatBytes(bytesAfter)
    : `${formatBytes(bytesBefore)}, now ${formatBytes(bytesAfter)}`;
}

function Items({
  id,
  asked,
}: {
  id: string;
  asked: { class: DataClass | null; change: Change | null };
}) {
  const name =
    asked.class === null || asked.change === null
      ? 'All that is not the same'
      : `${dataClasses[asked.class]}: ${changeNames[asked.change].toLowerCase()}`;
  return (
    <LookTable
      id={id}
      name={name}
      columns={columns}
      empty="Nothing: all of it is the same."
      page={(_, from) => call(routes.lookDifferences, { params: { id }, body: { ...asked, from } })}
    />
  );
}
