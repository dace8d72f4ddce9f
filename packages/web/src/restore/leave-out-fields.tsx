import {
  countOf,
  formatBytes,
  formatCount,
  type LeaveOut,
  type Sparable,
} from '@bright-cellar/core';
import { Choice, YesNo } from '../design/choice.js';

/** Rules by which single files stay, and what each would leave out where that is known. */
export function LeaveOutFields({
  without,
  sparable,
  onChange,
}: {
  without: LeaveOut;
  /** Null while nobody knows what goes. */
  sparable: Sparable | null;
  onChange: (without: LeaveOut) => void;
}) {
  const twice = sparable?.doubles ?? [];
  const items = twice.reduce((sum, one) => sum + one.items, 0);
  const bytes = twice.reduce((sum, one) => sum + one.bytes, 0);
  const amount = items > 0 ? `${countOf(items, 'file')}, ${formatBytes(bytes)}` : 'nothing is';
  const known = sparable ? ` (${amount})` : '';
  const long = sparable?.videos ?? [];
  const { videosFrom } = without;
  const froms = new Set([...long.map(({ from }) => from), ...(videosFrom ? [videosFrom] : [])]);
  const options = Object.fromEntries([
    ['all', 'All go'],
    ...[...froms].map((from) => {
      const those = long.find((one) => one.from === from);
      const many = those ? `: ${formatCount(those.items)}, ${formatBytes(those.bytes)}` : '';
      return [String(from), `Without those of ${formatBytes(from)} and more${many}`];
    }),
  ]) as Record<string, string>;
  return (
    <fieldset className="flex flex-col items-start gap-2 pt-3">
      <YesNo
        label={`Leave out what is there twice${known}`}
        checked={without.doubles}
        onChange={(doubles) => onChange({ ...without, doubles })}
      />
      {froms.size > 0 && (
        <Choice
          label="Long videos"
          value={videosFrom === null ? 'all' : String(videosFrom)}
          options={options}
          onChange={(value) =>
            onChange({ ...without, videosFrom: value === 'all' ? null : Number(value) })
          }
        />
      )}
    </fieldset>
  );
}
