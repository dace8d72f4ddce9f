import type { Backup } from '@bright-cellar/contract';
import {
  dataClasses,
  fieldNames,
  formatBytes,
  formatCount,
  stayReasons,
  type ClassCrossing,
  type CrossingReport,
  type DataClass,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { YesNo } from '../design/choice.js';

/** Class by class, what shall go over; and, once it was found out, what becomes of it. */
export function CrossingChoice({
  backup,
  chosen,
  onChoose,
  report,
  over,
}: {
  backup: Pick<Backup, 'classes'>;
  chosen: ReadonlySet<DataClass>;
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
    <section
      aria-label="What crosses"
      className="border-y border-line xl:border-x xl:border-y-0 px-5 py-4"
    >
      <h2 className="pb-2 text-center text-large">
        {over ? 'What arrived' : report ? 'What will arrive' : 'What shall cross'}
      </h2>
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
              <tr
                key={amount.class}
                className={clsx('border-t border-line align-top', !isIn && 'text-soft')}
              >
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
                <td className="py-1 text-right whitespace-nowrap">{formatCount(amount.items)}</td>
                <td className="py-1 pl-3 text-right whitespace-nowrap text-soft">
                  {formatBytes(amount.bytes)}
                </td>
                <td className="w-full py-1 pl-4">
                  {isIn && line ? <Fate line={line} over={over} /> : !isIn && 'left out'}
                </td>
              </tr>
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
    </section>
  );
}

/** In words: what of a class crosses, changes, is there, and stays. */
function Fate({ line, over }: { line: ClassCrossing; over: boolean }) {
  const { whole, changed, changes, present, beside, notShown, stays } = line;
  return (
    <div className="flex flex-col gap-0.5">
      {whole > 0 && (
        <p>
          <strong>{formatCount(whole)}</strong> {over ? 'arrived as they were' : 'as they are'}
        </p>
      )}
      {changed > 0 && (
        <p className="border-l-4 border-lamp pl-2">
          <strong>{formatCount(changed)}</strong> not quite:{' '}
          {changes
            .map(({ field, count }) => `${fieldNames[field].toLowerCase()} (${formatCount(count)})`)
            .join(', ')}
        </p>
      )}
      {present > 0 && (
        <p>
          <strong>{formatCount(present)}</strong> {over ? 'were' : 'are'} there already
        </p>
      )}
      {beside > 0 && (
        <p>
          Of those that go over, <strong>{formatCount(beside)}</strong> beside another version that
          the device keeps
        </p>
      )}
      {notShown > 0 && (
        <p className="border-l-4 border-lamp pl-2">
          <strong>{formatCount(notShown)}</strong> go over as files that it cannot show
        </p>
      )}
      {stays.map(({ why, count }) => (
        <p key={why} className="border-l-4 border-lamp pl-2">
          <strong>{formatCount(count)}</strong> {count === 1 ? 'stays' : 'stay'}:{' '}
          {stayReasons[why].why} <span className="text-soft">{stayReasons[why].instead}</span>
        </p>
      ))}
    </div>
  );
}
