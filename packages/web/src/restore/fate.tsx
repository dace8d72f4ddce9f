import {
  countedOf,
  countOf,
  fieldNames,
  formatCount,
  stayReasons,
  type ClassCrossing,
  type CrossingReport,
} from '@bright-cellar/core';

export const crossingTitle = (report: CrossingReport | null, over: boolean): string =>
  over ? 'What arrived' : report ? 'What will arrive' : 'What shall cross';

/** What of a class goes over, how much of that is not as it was, and what is there. */
export function Fate({ line: { class: of, whole, changed, present } }: { line: ClassCrossing }) {
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
export function Losses({ line, columns }: { line: ClassCrossing; columns: number }) {
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
      <td colSpan={columns} className="pb-1.5 pl-8.5">
        <p className="border-l-4 border-lamp pl-2">{sentence}</p>
      </td>
    </tr>
  ));
}
