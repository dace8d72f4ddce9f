import { formatBytes } from '@bright-cellar/core';
import { Courses, Racking, RackTarget } from '../drag.js';
import { Elevation } from '../elevation.js';
import type { BeforeAfter } from './drawn-plan.js';

const HEIGHT_PX = 210;

/** Every rack as it is and, beside it, as the plan leaves it. Archives are dragged from where they are. */
export function Board({
  racks,
  onMove,
}: {
  racks: readonly BeforeAfter[];
  onMove: (archiveId: string, from: string, to: string) => void;
}) {
  const names = new Map(racks.map(({ before }) => [before.rack.id, before.rack.name]));
  return (
    <Racking names={names} onMove={onMove}>
      <ul className="flex flex-wrap gap-x-7 gap-y-5 border border-line bg-surface px-5 pt-4 pb-4">
        {racks.map(({ before, after }) => (
          <li key={before.rack.id} className="flex flex-col gap-1">
            <p className="font-bold">
              {before.rack.name}
              {!before.rack.present && <span className="font-normal text-soft">, away</span>}
            </p>
            <RackTarget id={before.rack.id}>
              <div className="flex items-end gap-2">
                <span className="relative">
                  <Elevation {...before} width={72} height={HEIGHT_PX} />
                  {before.rack.present && (
                    <Courses rack={before.rack} drawn={before.drawn} height={HEIGHT_PX} />
                  )}
                </span>
                <span aria-hidden className="self-center text-soft">
                  →
                </span>
                <Elevation {...after} width={72} height={HEIGHT_PX} />
              </div>
            </RackTarget>
            <p className="text-small text-soft">
              free {formatBytes(before.rack.free)}
              {after.rack.free !== before.rack.free && (
                <>
                  {' '}
                  → <span className="font-semibold text-ink">{formatBytes(after.rack.free)}</span>
                </>
              )}
            </p>
          </li>
        ))}
      </ul>
    </Racking>
  );
}
