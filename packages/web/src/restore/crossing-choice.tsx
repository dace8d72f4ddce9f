import type { Backup } from '@bright-cellar/contract';
import {
  dataClasses,
  formatBytes,
  formatCount,
  type CrossingReport,
  type DataClass,
  type DaySpan,
  type LeaveOut,
  type Sparable,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { Fragment } from 'react';
import { YesNo } from '../design/choice.js';
import { DaysFields } from '../design/days-fields.js';
import { crossingTitle, Fate, Losses } from './fate.js';
import { LeaveOutFields } from './leave-out-fields.js';

/** Class by class, what shall go over; and, once it was found out, what becomes of it. */
export function CrossingChoice({
  backup,
  chosen,
  onChoose,
  days,
  onDays,
  without,
  sparable,
  onWithout,
  report,
  over,
}: {
  backup: Pick<Backup, 'classes'>;
  chosen: ReadonlySet<DataClass>;
  days: DaySpan;
  onDays: (days: DaySpan) => void;
  without: LeaveOut;
  sparable: Sparable | null;
  onWithout: (without: LeaveOut) => void;
  /** Null once it is under way. */
  onChoose: ((chosen: ReadonlySet<DataClass>) => void) | null;
  /** Null while nobody knows. */
  report: CrossingReport | null;
  over: boolean;
}) {
  const isAll = backup.classes.every((amount) => chosen.has(amount.class));
  const withOne = (id: DataClass, on: boolean) => {
    const next = new Set(chosen);
    if (on) next.add(id);
    else next.delete(id);
    return next;
  };
  return (
    <section aria-label="What crosses">
      <h2 className="pb-2 text-center text-large">{crossingTitle(report, over)}</h2>
      <table className="w-full border-collapse text-small">
        <thead className="sr-only">
          <tr>
            <th>Class</th>
            <th>Items</th>
            <th>Size</th>
            <th>What becomes of it</th>
          </tr>
        </thead>
        <tbody>
          {backup.classes.map((amount) => {
            const isIn = chosen.has(amount.class);
            const line = report?.find((one) => one.class === amount.class);
            return (
              <Fragment key={amount.class}>
                <tr className={clsx('border-t border-line', !isIn && 'text-soft')}>
                  <th className="py-1 pr-3 text-left font-normal whitespace-nowrap">
                    {onChoose ? (
                      <YesNo
                        label={dataClasses[amount.class]}
                        checked={isIn}
                        onChange={(on) => onChoose(withOne(amount.class, on))}
                      />
                    ) : (
                      dataClasses[amount.class]
                    )}
                  </th>
                  <td className="text-right whitespace-nowrap">{formatCount(amount.items)}</td>
                  <td className="pl-3 text-right whitespace-nowrap text-soft">
                    {formatBytes(amount.bytes)}
                  </td>
                  <td className="w-full pl-4">
                    {isIn && line ? <Fate line={line} /> : !isIn && 'left out'}
                  </td>
                </tr>
                {isIn && line && <Losses line={line} columns={4} />}
              </Fragment>
            );
          })}
        </tbody>
      </table>
      {onChoose && (
        <button
          type="button"
          className="pt-2 text-small underline"
          onClick={() =>
            onChoose(new Set(isAll ? [] : backup.classes.map((amount) => amount.class)))
          }
        >
          {isAll ? 'Leave all out' : 'Take all'}
        </button>
      )}
      {onChoose && (
        <fieldset className="flex flex-wrap items-start gap-x-4 gap-y-1 pt-3">
          <DaysFields first="Only from" days={days} onChange={onDays} />
          <p className="w-full text-small text-soft">
            Of messages, calls, pages, measurements, photographs, videos, voice notes and documents.
            All else goes whole.
          </p>
        </fieldset>
      )}
      {onChoose && <LeaveOutFields {...{ without, sparable }} onChange={onWithout} />}
    </section>
  );
}
