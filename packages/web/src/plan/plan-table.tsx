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
import { memo, useEffect, useRef, useState, type KeyboardEvent } from 'react';
import type { PlanRow } from './plan-rows.js';

const ROW_PX = 30;
/** Lines above and below what is in sight. */
const OVERSCAN = 6;
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
    overscan: OVERSCAN,
  });
  // A line that comes into sight is drawn into the place of one that left it: making new ones is half of a frame.
  const places = Math.ceil((virtual.scrollRect?.height ?? 0) / ROW_PX) + 2 * OVERSCAN + 2;
  const whole = [...tallies].reduce(
    (sum, [key, t]) => (key.includes('/') ? sum : sum + t.chosenBytes),
    0,
  );

  const prices = new Map(cost?.classes.map((c) => [c.class, c]));

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

  // The lines keep their handlers, so that scrolling draws only what comes into sight.
  const latest = useRef({ toggle, onOpen, from, to });
  useEffect(() => {
    latest.current = { toggle, onOpen, from, to };
  });
  const [on] = useState<LineEvents>(() => ({
    point: (index, extend) => {
      setCursor(index);
      if (!extend) setAnchor(index);
    },
    mark: (index, extend) => {
      const { toggle: toggleRows, from: first, to: last } = latest.current;
      if (extend) toggleRows(first, last);
      else toggleRows(index, index);
    },
    open: (key, isOpen) => latest.current.onOpen(key, isOpen),
  }));

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
        className="h-[max(18rem,calc(100vh-31rem))] overflow-y-auto -outline-offset-2"
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index];
            if (!row) return null;
            const tally = tallies.get(row.key);
            const state = stateOf(row, tallies, choice);
            const priced = prices.get(row.class);
            const bytes = tally ? tally.chosenBytes : state === 'all' ? row.bytes : 0;
            const share = priced && priced.bytes > 0 ? bytes / priced.bytes : 0;
            return (
              <PlanLine
                key={index % places}
                row={row}
                index={index}
                start={start}
                count={rows.length}
                state={state}
                isOpen={open.has(row.key)}
                isSelected={index >= from && index <= to}
                isCursor={index === at}
                chosenItems={tally?.chosenItems ?? null}
                share={bytes > 0 && whole > 0 ? bytes / whole : null}
                stored={priced && bytes > 0 ? priced.storedBytes * share : null}
                ms={priced && bytes > 0 ? priced.ms * share : null}
                on={on}
              />
            );
          })}
        </div>
      </div>
    </div>
  );
}

interface LineEvents {
  point: (index: number, extend: boolean) => void;
  mark: (index: number, extend: boolean) => void;
  open: (key: string, isOpen: boolean) => void;
}

/** One line of the table, drawn again only when something on it changed. */
const PlanLine = memo(function PlanLine({
  row,
  index,
  start,
  count,
  state,
  isOpen,
  isSelected,
  isCursor,
  chosenItems,
  share,
  stored,
  ms,
  on,
}: {
  row: PlanRow;
  index: number;
  start: number;
  count: number;
  state: 'all' | 'none' | 'some';
  isOpen: boolean;
  isSelected: boolean;
  isCursor: boolean;
  /** Null for a single item. */
  chosenItems: number | null;
  share: number | null;
  stored: number | null;
  ms: number | null;
  on: LineEvents;
}) {
  const partly = chosenItems !== null && chosenItems > 0 && chosenItems !== row.items;
  return (
    <div
      id={`plan-row-${index}`}
      role="treeitem"
      aria-level={row.depth + 1}
      aria-setsize={count}
      aria-posinset={index + 1}
      aria-selected={isSelected}
      aria-checked={state === 'some' ? 'mixed' : state === 'all'}
      {...(row.opens ? { 'aria-expanded': isOpen } : {})}
      onMouseDown={(event) => {
        if (event.shiftKey) event.preventDefault();
        on.point(index, event.shiftKey);
      }}
      className={clsx(
        columns,
        'absolute inset-x-0 top-0 [contain:strict] border-b border-line',
        isSelected && 'bg-ground',
        isCursor && 'outline-2 -outline-offset-2 outline-edge',
      )}
      style={{ height: ROW_PX, transform: `translateY(${start}px)` }}
    >
      <span className="flex min-w-0 items-center gap-1.5" style={{ paddingLeft: row.depth * 22 }}>
        <span
          aria-hidden
          onClick={(event) => on.mark(index, event.shiftKey)}
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
          onClick={() => row.opens && on.open(row.key, !isOpen)}
          className={clsx(
            'flex size-5 shrink-0 items-center justify-center [&_svg]:size-4',
            row.opens && 'cursor-pointer',
          )}
        >
          {row.opens && (isOpen ? <ChevronDown /> : <ChevronRight />)}
        </span>
        <span className={clsx('truncate', row.depth === 0 && 'font-semibold')}>{row.name}</span>
        {row.sealed && (
          <span className="flex items-center gap-1 text-small whitespace-nowrap text-soft">
            <Lock aria-hidden className="size-3.5" /> sealed
          </span>
        )}
      </span>
      <span className="text-right">
        {partly
          ? `${formatCount(chosenItems)} of ${formatCount(row.items)}`
          : formatCount(row.items)}
      </span>
      <span className="text-right">{formatBytes(row.bytes)}</span>
      <span className="text-right text-soft">{share === null ? '–' : shareWords(share)}</span>
      <span className="text-right">{stored === null ? '–' : formatBytes(stored)}</span>
      <span className="text-right">{ms === null ? '–' : timeWords(ms)}</span>
    </div>
  );
});

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
