import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';

/** More is fetched when so few rows are left below. */
const AHEAD = 8;
/** So many rows one goes back at once. */
const BACK = 50;

/** Something of a day or a moment: when it was in the margin, what it is beside it. */
export interface TimeRow {
  key: string;
  margin: ReactNode;
  body: ReactNode;
}

/** The reading column: what was said or made, in the order of time. Only what is in sight exists. */
export function TimeColumn({
  label,
  rows,
  rowPx,
  hasMore,
  onMore,
  start = 0,
  onStart,
}: {
  label: string;
  rows: TimeRow[];
  /** About how high a row is. */
  rowPx: number;
  hasMore: boolean;
  onMore: () => void;
  /** The number of the first row; where it is not the first of all, one can go back. */
  start?: number;
  onStart?: (start: number) => void;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  // The library's hooks keep their own memory; the compiler's rules do not know them.
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowPx,
    getItemKey: (index) => rows[index]?.key ?? index,
    overscan: 4,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (hasMore && last > rows.length - AHEAD) onMore();
  }, [hasMore, last, rows.length, onMore]);
  return (
    <>
      {start > 0 && onStart && (
        <button
          type="button"
          onClick={() => onStart(Math.max(0, start - BACK))}
          className="self-start underline"
        >
          What comes before
        </button>
      )}
      <div
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label={label}
        className="h-[58vh] overflow-y-auto border border-line bg-surface"
      >
        <div className="relative w-full" style={{ height: virtual.getTotalSize() }}>
          {items.map(({ index, start, key }) => (
            <article
              key={key}
              ref={virtual.measureElement}
              data-index={index}
              className="absolute top-0 left-0 grid w-full grid-cols-[9.5rem_minmax(0,1fr)]"
              style={{ transform: `translateY(${start}px)` }}
            >
              <div className="border-r-2 border-line px-3 py-2 text-right text-small text-soft">
                {rows[index]?.margin}
              </div>
              <div className="min-w-0 px-4 py-2">{rows[index]?.body}</div>
            </article>
          ))}
        </div>
      </div>
    </>
  );
}
