import { useVirtualizer } from '@tanstack/react-virtual';
import type { PlanCost } from '@bright-cellar/contract';
import {
  chooseMany,
  formatBytes,
  formatCount,
  formatDuration,
  triState,
  type Choice,
  type Tally,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { Check, ChevronDown, ChevronRight, Lock, Minus } from 'lucide-react';
import { useRef, useState, type KeyboardEvent } from 'react';
import type { PlanRow } from './plan-rows.js';

const ROW_PX = 30;
const TYPE_AHEAD_MS = 900;
const columns =
  'grid grid-cols-[minmax(0,1fr)_4.5rem_5.5rem_4rem_5.5rem_5rem] items-center gap-2 px-2';

/**
 * What is taken, line by line: classes, their groups, their items. Worked with the mouse (shift for a range)
 * and with the keyboard alone: arrows, shift and arrows for a range, space, Ctrl A, letters to jump.
 */
export function PlanTable({
  rows,
  tallies,
  choice,
  cost,
  open,
  onOpen,
  onChoice,
}: {
  rows: readonly PlanRow[];
  tallies: ReadonlyMap<string, Tally>;
  choice: Choice;
  cost: PlanCost | undefined;
  open: ReadonlySet<string>;
  onOpen: (key: string, isOpen: boolean) => void;
  onChoice: (choice: Choice) => void;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const [cursor, setCursor] = useState(0);
  const [anchor, setAnchor] = useState(0);
  const typed = useRef({ text: '', at: 0 });
  const at = Math.min(cursor, rows.length - 1);
  const from = Math.min(Math.min(anchor, rows.length - 1), at);
  const to = Math.max(Math.min(anchor, rows.length - 1), at);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
  });
  const whole = [...tallies].reduce(
    (sum, [key, t]) => (key.includes('/') ? sum : sum + t.chosenBytes),
    0,
  );

  const go = (place: number, extend: boolean) => {
    const next = Math.max(0, Math.min(rows.length - 1, place));
    setCursor(next);
    if (!extend) setAnchor(next);
    virtual.scrollToIndex(next);
  };
  const toggle = (first: number, last: number) => {
    const keys = rows.slice(first, last + 1).map((row) => row.key);
    // All of them follow the first one: a range that is half chosen becomes whole.
    const on = rows.slice(first, last + 1).some((row) => stateOf(row, tallies, choice) !== 'all');
    onChoice(chooseMany(choice, keys, on));
  };
  const pressed = (event: KeyboardEvent) => {
    const row = rows[at];
    if (!row) return;
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }[event.key];
    if (step !== undefined) go(at + step, event.shiftKey);
    else if (event.key === 'Home') go(0, event.shiftKey);
    else if (event.key === 'End') go(rows.length - 1, event.shiftKey);
    else if (event.key === ' ') toggle(from, to);
    else if (event.key === 'ArrowRight' && row.opens) onOpen(row.key, true);
    else if (event.key === 'ArrowLeft') {
      if (row.opens && open.has(row.key)) onOpen(row.key, false);
      else
        go(
          rows.slice(0, at).findLastIndex((r) => r.depth < row.depth),
          false,
        );
    } else if (event.key.toLowerCase() === 'a' && event.ctrlKey) {
      setAnchor(0);
      setCursor(rows.length - 1);
    } else if (event.key.length === 1 && !event.ctrlKey && !event.altKey && !event.metaKey) {
      jump(event.key);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  /** To the next line that begins with what is being typed. */
  const jump = (letter: string) => {
    const now = performance.now();
    const text = now - typed.current.at < TYPE_AHEAD_MS ? typed.current.text + letter : letter;
    typed.current = { text, at: now };
    const begins = (row: PlanRow) => row.name.toLowerCase().startsWith(text.toLowerCase());
    const start = text.length === 1 ? at + 1 : at;
    const after = rows.findIndex((row, i) => i >= start && begins(row));
    const found = after >= 0 ? after : rows.findIndex(begins);
    if (found >= 0) go(found, false);
  };

  return (
    <div className="border border-line bg-surface">
      <div
        className={clsx(columns, 'h-8 border-b border-edge text-small font-semibold text-soft')}
        aria-hidden
      >
        <span className="pl-7">What is on the device</span>
        <span className="text-right">Items</span>
        <span className="text-right">Size</span>
        <span className="text-right">Share</span>
        <span className="text-right">On the rack</span>
        <span className="text-right">Time</span>
      </div>
      <div
        ref={scroller}
        role="tree"
        tabIndex={0}
        aria-label="What is taken"
        aria-multiselectable
        aria-activedescendant={rows.length > 0 ? `plan-row-${at}` : undefined}
        onKeyDown={pressed}
        className="h-[22rem] overflow-y-auto -outline-offset-2"
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index];
            if (!row) return null;
            const state = stateOf(row, tallies, choice);
            const tally = tallies.get(row.key);
            const bytes = tally ? tally.chosenBytes : state === 'all' ? row.bytes : 0;
            const priced = cost?.classes.find((c) => c.class === row.class);
            const share = priced && priced.bytes > 0 ? bytes / priced.bytes : 0;
            return (
              <div
                key={row.key}
                id={`plan-row-${index}`}
                role="treeitem"
                aria-level={row.depth + 1}
                aria-setsize={rows.length}
                aria-posinset={index + 1}
                aria-selected={index >= from && index <= to}
                aria-checked={state === 'some' ? 'mixed' : state === 'all'}
                aria-label={`${row.name}, ${formatCount(row.items)} items, ${formatBytes(row.bytes)}`}
                {...(row.opens ? { 'aria-expanded': open.has(row.key) } : {})}
                onMouseDown={(event) => {
                  if (event.shiftKey) event.preventDefault();
                  setCursor(index);
                  if (!event.shiftKey) setAnchor(index);
                }}
                className={clsx(
                  columns,
                  'absolute inset-x-0 top-0 border-b border-line',
                  index >= from && index <= to && 'bg-ground',
                  index === at && 'outline-2 -outline-offset-2 outline-edge',
                )}
                style={{ height: ROW_PX, transform: `translateY(${start}px)` }}
              >
                <span
                  className="flex min-w-0 items-center gap-1.5"
                  style={{ paddingLeft: row.depth * 22 }}
                >
                  <span
                    aria-hidden
                    onClick={(event) => {
                      if (event.shiftKey) toggle(from, to);
                      else toggle(index, index);
                    }}
                    className={clsx(
                      'flex size-5 shrink-0 cursor-pointer items-center justify-center rounded-sm border border-edge [&_svg]:size-3.5',
                      state === 'none' ? 'bg-surface' : 'bg-ink text-ground',
                    )}
                  >
                    {state === 'all' && <Check />}
                    {state === 'some' && <Minus />}
                  </span>
                  <span
                    aria-hidden
                    onClick={() => row.opens && onOpen(row.key, !open.has(row.key))}
                    className={clsx(
                      'flex size-5 shrink-0 items-center justify-center [&_svg]:size-4',
                      row.opens && 'cursor-pointer',
                    )}
                  >
                    {row.opens && (open.has(row.key) ? <ChevronDown /> : <ChevronRight />)}
                  </span>
                  <span className={clsx('truncate', row.depth === 0 && 'font-semibold')}>
                    {row.name}
                  </span>
                  {row.sealed && (
                    <span className="flex items-center gap-1 text-small whitespace-nowrap text-soft">
                      <Lock aria-hidden className="size-3.5" /> sealed
                    </span>
                  )}
                </span>
                <span className="text-right">
                  {tally && tally.chosenItems !== tally.items && tally.chosenItems > 0
                    ? `${formatCount(tally.chosenItems)} of ${formatCount(tally.items)}`
                    : formatCount(row.items)}
                </span>
                <span className="text-right">{formatBytes(row.bytes)}</span>
                <span className="text-right text-soft">
                  {bytes > 0 && whole > 0 ? shareWords(bytes / whole) : '–'}
                </span>
                <span className="text-right">
                  {priced && bytes > 0 ? formatBytes(priced.storedBytes * share) : '–'}
                </span>
                <span className="text-right">
                  {priced && bytes > 0 ? timeWords(priced.ms * share) : '–'}
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

const timeWords = (ms: number) => (ms < 1000 ? '< 1 s' : formatDuration(ms));

function shareWords(share: number): string {
  const percent = share * 100;
  return percent < 1 ? '< 1 %' : `${Math.round(percent)} %`;
}

function stateOf(
  row: PlanRow,
  tallies: ReadonlyMap<string, Tally>,
  choice: Choice,
): 'all' | 'none' | 'some' {
  if (row.kind !== 'item') {
    const tally = tallies.get(row.key);
    return tally ? triState(tally) : 'none';
  }
  const group = row.key.slice(0, row.key.indexOf('#'));
  return (choice[row.key] ?? choice[group] ?? choice[row.class] ?? false) ? 'all' : 'none';
}
