import type { Rack } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import clsx from 'clsx';
import { RadioGroup } from 'radix-ui';

const HEIGHT_PX = 112;
/** Thinner than this a course cannot be seen. */
const LEAST_PX = 3;

/** Each rack as a column drawn to scale: what lies in it, what this backup would add, the reserve line, the room above. */
export function RackElevations({
  racks,
  fitting,
  adds,
  after,
  chosen,
  onChoose,
}: {
  racks: readonly Rack[];
  /** Those with room for it. */
  fitting: readonly Rack[];
  /** Bytes that are about to be added; 0 while they are measured. */
  adds: number;
  /** What stays free on a rack, in words; null while it is measured. */
  after: (rack: Rack) => string | null;
  chosen: string | null;
  onChoose: (id: string) => void;
}) {
  return (
    <RadioGroup.Root
      aria-label="Rack"
      value={chosen ?? ''}
      onValueChange={onChoose}
      className="flex max-w-84 flex-wrap gap-3"
    >
      {racks.map((rack) => {
        const fits = fitting.includes(rack);
        return (
          <RadioGroup.Item
            key={rack.id}
            value={rack.id}
            disabled={!fits}
            className={clsx(
              'flex w-40 items-start gap-2.5 text-left',
              rack.id === chosen ? 'border-2 border-ink p-[9px]' : 'border border-line p-2.5',
              !fits && 'cursor-not-allowed text-soft',
            )}
          >
            <Column rack={rack} adds={adds} />
            <span className="flex min-w-0 flex-col text-small">
              <span className="text-body font-bold">{rack.name}</span>
              {rack.present ? (
                <>
                  <span className="text-soft">free now</span>
                  <span>{formatBytes(rack.free)}</span>
                  <span className="text-soft">and after</span>
                  <span>{after(rack) ?? '…'}</span>
                  <span className="text-soft">reserve</span>
                  <span>{formatBytes(rack.reserve)}</span>
                </>
              ) : (
                <span>not connected</span>
              )}
              {rack.present && !fits && <span className="font-semibold text-danger">No room</span>}
            </span>
          </RadioGroup.Item>
        );
      })}
    </RadioGroup.Root>
  );
}

function Column({ rack, adds }: { rack: Rack; adds: number }) {
  const scale = rack.capacity > 0 ? HEIGHT_PX / rack.capacity : 0;
  const px = (bytes: number) => Math.max(bytes > 0 ? LEAST_PX : 0, bytes * scale);
  const kept = px(rack.storedBytes);
  const others = Math.max(0, (rack.capacity - rack.free - rack.storedBytes) * scale);
  return (
    <svg width="34" height={HEIGHT_PX} aria-hidden className="shrink-0">
      <rect width="34" height={HEIGHT_PX} fill="var(--ground)" stroke="var(--edge)" />
      <rect x="1" y={HEIGHT_PX - others} width="32" height={others} fill="var(--line)" />
      <rect x="1" y={HEIGHT_PX - others - kept} width="32" height={kept} fill="var(--soft)" />
      <rect
        x="1"
        y={HEIGHT_PX - others - kept - px(adds)}
        width="32"
        height={px(adds)}
        fill="var(--ink)"
      />
      <line
        x1="0"
        x2="34"
        y1={px(rack.reserve)}
        y2={px(rack.reserve)}
        stroke="var(--danger)"
        strokeDasharray="3 2"
      />
    </svg>
  );
}
