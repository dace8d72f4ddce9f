import type { Backup } from '@bright-cellar/contract';
import {
  countedOf,
  countOf,
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
import { Fragment } from 'react';
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
    <section aria-label="What crosses">
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
                {isIn && line && <Losses line={line} />}
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
    </section>
  );
}

/** What of a class goes over, how much of that is not as it was, and what is there. */
function Fate({ line: { class: of, whole, changed, present } }: { line: ClassCrossing }) {
  const arrives = whole + changed;
  const parts = [
    ...(arrives > 0 ? [countedOf(of, arrives)] : []),
    ...(changed > 0 ? [`${formatCount(changed)} changed`] : []),
    ...(present > 0 ? [`${countedOf(of, present)} there already`] : []),
  ];
  return parts.length > 0
    ? parts.map((part) => (
        <span key={part} className="block whitespace-nowrap">
          {part}
        </span>
      ))
    : 'nothing';
}

/** What of a class does not arrive as it was, how, and why. */
function Losses({ line }: { line: ClassCrossing }) {
  const { class: of, changes, beside, notShown, stays } = line;
  const said = [
    ...(changes.length > 0
      ? [
          `Changed: ${changes
            .map(({ field, count }) => `${fieldNames[field].toLowerCase()} (${formatCount(count)})`)
            .join(', ')}.`,
        ]
      : []),
    ...(beside > 0
      ? [`${countedOf(of, beside)} beside another version that the device keeps.`]
      : []),
    ...(notShown > 0 ? [`${countedOf(of, notShown)} that the device keeps and cannot show.`] : []),
    ...stays.map(
      ({ why, count }) =>
        `${countOf(count, 'item')} ${count === 1 ? 'stays' : 'stay'}. ${stayReasons[why].why} ${stayReasons[why].instead}`,
    ),
  ];
  return said.map((sentence) => (
    <tr key={sentence}>
      <td colSpan={4} className="pb-1.5 pl-8.5">
        <p className="border-l-4 border-lamp pl-2">{sentence}</p>
      </td>
    </tr>
  ));
}
