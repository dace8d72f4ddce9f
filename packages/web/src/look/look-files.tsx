import type { ColumnDef } from '@tanstack/react-table';
import { routes, type LookFile } from '@bright-cellar/contract';
import { dataClasses, formatBytes, type DataClass } from '@bright-cellar/core';
import { use, useState, type ReactNode } from 'react';
import { call } from '../api/call.js';
import { dateTime } from '../design/dates.js';
import { BytesFrom, LookPicture, SaveThis } from './bytes.js';
import { LookTable } from './look-table.js';

const columns: ColumnDef<LookFile>[] = [
  {
    id: 'path',
    header: 'Path on the device',
    enableSorting: false,
    cell: ({ row }) => row.original.path,
    meta: { words: true },
  },
  {
    id: 'bytes',
    header: 'Size',
    enableSorting: false,
    cell: ({ row }) => formatBytes(row.original.bytes),
    meta: { number: true },
  },
  {
    id: 'modified',
    header: 'Changed',
    enableSorting: false,
    cell: ({ row }) => dateTime(row.original.modified),
  },
];

/** A class as the files that it is; a picture is shown above them. */
export function LookFiles({
  id,
  dataClass,
  children,
}: {
  id: string;
  dataClass: DataClass;
  children?: ReactNode;
}) {
  const [shown, setShown] = useState<LookFile | null>(null);
  const { save } = use(BytesFrom);
  return (
    <LookTable
      id={id}
      name={dataClasses[dataClass]}
      label="Whose path has"
      columns={columns}
      page={(text, from) =>
        call(routes.lookFiles, { params: { id }, body: { class: dataClass, text, from } })
      }
      onOpen={(file) => setShown(file.isPicture || save ? file : null)}
    >
      {children}
      {shown && (
        <figure className="flex flex-col gap-1 border border-line bg-surface p-3">
          {shown.isPicture && (
            <LookPicture
              {...{ id, of: 'files', number: shown.item, pixels: 1200 }}
              alt={`Picture ${shown.path}`}
              className="max-h-[45vh] self-center object-contain"
            />
          )}
          <figcaption className="text-small text-soft">
            {shown.path}, {formatBytes(shown.bytes)}, {dateTime(shown.modified)}
          </figcaption>
          <span>
            <SaveThis item={shown.item} path={shown.path} />
          </span>
        </figure>
      )}
    </LookTable>
  );
}
