import type { Backup, Operation } from '@bright-cellar/contract';
import { dataClasses, formatBytes, formatCount } from '@bright-cellar/core';
import clsx from 'clsx';

/** Class by class, what goes over from the left to the right. Within a family everything crosses as it is. */
export function Crossing({ backup, operation }: { backup: Backup; operation: Operation | null }) {
  const over = operation?.state === 'done';
  return (
    <section aria-label="What crosses">
      <h2 className="pb-2 text-center text-large">{over ? 'Crossed' : 'Crosses as it is'}</h2>
      <table className="w-full border-collapse text-small">
        <tbody>
          {backup.classes.map((amount) => (
            <tr key={amount.class} className="h-6.5">
              <th className="pr-3 text-left font-normal whitespace-nowrap">
                {dataClasses[amount.class]}
              </th>
              <td className="text-right whitespace-nowrap">{formatCount(amount.items)}</td>
              <td className="w-full px-3" aria-hidden>
                <span className="flex items-center">
                  <span className={clsx('h-px flex-1', over ? 'bg-proven' : 'bg-edge')} />
                  <span
                    className={clsx(
                      'size-0 border-y-4 border-l-8 border-y-transparent',
                      over ? 'border-l-proven' : 'border-l-edge',
                    )}
                  />
                </span>
              </td>
              <td className="text-right whitespace-nowrap">{formatBytes(amount.bytes)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="pt-3 text-small text-soft">
        Applications themselves download again afterwards; their data is there already. Payment
        cards and fingerprint or face enrolment are in no backup.
      </p>
    </section>
  );
}
