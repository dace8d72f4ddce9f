import type { RegularExtract } from '@bright-cellar/contract';
import { dateStyleNames, extractFormatNames } from '@bright-cellar/core';
import { Choice, YesNo } from '../design/choice.js';

/** How one narrow set is written; which set it is stands apart. */
export type RecordsStyle = Omit<RegularExtract['what'], 'kind' | 'set'>;

export const usualStyle: RecordsStyle = {
  format: 'html',
  dates: 'words',
  named: true,
  media: true,
  videos: true,
  clock: 'shop',
  since: null,
  until: null,
  append: true,
};

/** The open file's format and what stands in it; of which days is asked where it is taken once. */
export function RecordsFields({
  style,
  onChange,
}: {
  style: RecordsStyle;
  onChange: (style: RecordsStyle) => void;
}) {
  const change = (part: Partial<RecordsStyle>) => onChange({ ...style, ...part });
  return (
    <>
      <Choice
        label="As"
        value={style.format}
        options={extractFormatNames}
        onChange={(format) => change({ format })}
      />
      <div className="grid grid-cols-2 gap-4">
        <Choice
          label="Dates"
          value={style.dates}
          options={dateStyleNames}
          onChange={(dates) => change({ dates })}
        />
        <Choice
          label="By the clock of"
          value={style.clock}
          options={{ shop: 'the shop', utc: 'UTC' }}
          onChange={(clock) => change({ clock })}
        />
      </div>
      <YesNo
        label="Names of contacts in place of numbers"
        checked={style.named}
        onChange={(named) => change({ named })}
      />
      <YesNo
        label="With the pictures, sounds and files that came with it"
        checked={style.media}
        onChange={(media) => change({ media })}
      />
      {style.media && (
        <YesNo
          label="And with videos"
          checked={style.videos}
          onChange={(videos) => change({ videos })}
        />
      )}
      <YesNo
        label="Add to the last file, without doubling; otherwise a new file"
        checked={style.append}
        onChange={(append) => change({ append })}
      />
    </>
  );
}
