import { useQuery } from '@tanstack/react-query';
import { routes, type FailedItem } from '@bright-cellar/contract';
import { countOf, dataClasses, formatBytes, type FailedItems as Failed } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { dateTime } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';

/** What was not taken: how many of which class and why; and on demand each of them, as its device lists it. */
export function FailedItems({
  operationId,
  failed,
}: {
  operationId: string;
  failed: readonly Failed[];
}) {
  const [shown, setShown] = useState(false);
  const known = failed.some((f) => (f.ids ?? []).length > 0);
  return (
    <div className="flex flex-col gap-1.5">
      <ul className="list-disc pl-5">
        {failed.map((f) => (
          <li key={f.class + f.reason}>
            {dataClasses[f.class]}: {countOf(f.count, 'item')} not taken, {f.reason}.
          </li>
        ))}
      </ul>
      {known && (
        <button
          type="button"
          aria-expanded={shown}
          className="self-start text-small underline"
          onClick={() => setShown(!shown)}
        >
          {shown ? 'Hide them' : 'Show each of them'}
        </button>
      )}
      {shown && <EachOfThem operationId={operationId} />}
    </div>
  );
}

function EachOfThem({ operationId }: { operationId: string }) {
  const items = useQuery({
    queryKey: ['operations', operationId, 'failed'],
    queryFn: () => call(routes.failedItems, { params: { id: operationId } }),
    retry: false,
    // Names are the customer's: they are not kept once nobody looks at them.
    gcTime: 0,
  });
  if (items.isPending) return <Loading what="Asking the device" />;
  if (items.error) return <ProblemNote problem={problemFrom(items.error)} />;
  if (items.data.length === 0) {
    return <p className="text-small text-soft">The device does not hold them any more.</p>;
  }
  return (
    <div className="max-h-64 overflow-y-auto border border-line">
      <table aria-label="Items that were not taken" className="w-full text-left text-small">
        <thead>
          <tr className="border-b border-edge text-soft [&_th]:h-8 [&_th]:px-2.5 [&_th]:font-semibold">
            <th>Item</th>
            <th className="text-right">Size</th>
            <th>Changed</th>
          </tr>
        </thead>
        {alike(items.data).map(([why, ofIt]) => (
          <tbody key={why}>
            <tr className="h-8 border-b border-line bg-ground">
              <th colSpan={3} scope="rowgroup" className="px-2.5 font-semibold">
                {why}
              </th>
            </tr>
            {ofIt.map((item, i) => (
              <tr key={i} className="h-7 border-b border-line [&_td]:px-2.5">
                <td className="break-all">{item.name ?? 'name not shown: not agreed'}</td>
                <td className="text-right whitespace-nowrap">{formatBytes(item.bytes)}</td>
                <td className="whitespace-nowrap">{dateTime(item.modified)}</td>
              </tr>
            ))}
          </tbody>
        ))}
      </table>
    </div>
  );
}

/** Items of one class that failed for one reason, together, with both in words. */
function alike(items: readonly FailedItem[]): [string, FailedItem[]][] {
  const groups = new Map<string, FailedItem[]>();
  for (const item of items) {
    const why = `${dataClasses[item.class]}: ${item.reason}`;
    const known = groups.get(why);
    if (known) known.push(item);
    else groups.set(why, [item]);
  }
  return [...groups];
}
