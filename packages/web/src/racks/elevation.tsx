import type { Elevation as Drawn, Rack } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import { useId } from 'react';

/** Thinner than this a course cannot be seen. */
const LEAST_PX = 2;
const GAP_PX = 1;
/** Narrower than this it has no room for words. */
const LABEL_PX = 90;

interface Course {
  key: string;
  y: number;
  height: number;
  fill: string;
  says: string;
}

/**
 * A rack as a column to its own scale: what others use at the foot, the archives in courses above it, the room that is free,
 * and the line of the reserve under the top. `lit` are archives that are meant by what stands beside it.
 */
export function Elevation({
  rack,
  drawn,
  width,
  height,
  lit,
}: {
  rack: Rack;
  drawn: Drawn | undefined;
  width: number;
  height: number;
  lit?: ReadonlySet<string>;
}) {
  const hatch = useId();
  const { courses, top } = stack(rack, drawn, height);
  const scale = rack.capacity > 0 ? height / rack.capacity : 0;
  const reserve = Math.min(height, rack.reserve * scale);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={`${rack.name} to scale: ${formatBytes(rack.capacity)}, of which archives take ${formatBytes(rack.storedBytes)}`}
      className={rack.present ? '' : 'opacity-60'}
    >
      <defs>
        <pattern id={hatch} width="6" height="6" patternUnits="userSpaceOnUse">
          <path d="M0 6 L6 0" stroke="var(--edge)" strokeWidth="1" />
        </pattern>
      </defs>
      <rect
        x="0.5"
        y="0.5"
        width={width - 1}
        height={height - 1}
        fill="var(--surface)"
        stroke="var(--edge)"
        strokeDasharray={rack.present ? undefined : '4 3'}
      />
      {courses.map(({ key, y, height: tall, fill, says }) => (
        <rect
          key={key}
          x="1"
          y={y}
          width={width - 2}
          height={tall}
          fill={lit?.has(key) ? 'var(--lamp)' : fill === 'hatch' ? `url(#${hatch})` : fill}
        >
          <title>{says}</title>
        </rect>
      ))}
      {reserve >= 1 && (
        <line
          x1="0"
          x2={width}
          y1={reserve}
          y2={reserve}
          stroke="var(--danger)"
          strokeDasharray="4 3"
        >
          <title>{`Reserve: ${formatBytes(rack.reserve)} stay free`}</title>
        </line>
      )}
      {top > 24 && width >= LABEL_PX && rack.present && (
        <text
          x={width / 2}
          y={Math.max(reserve + 16, top - 8)}
          textAnchor="middle"
          className="fill-soft text-small"
        >
          {formatBytes(rack.free)} free
        </text>
      )}
    </svg>
  );
}

const fills: Record<Drawn['courses'][number]['state'], string> = {
  whole: 'var(--soft)',
  unknown: 'var(--edge)',
  damaged: 'var(--danger)',
};

/** Everything in its place, from the foot up. @returns `top`: where the free room begins, in pixels from above */
function stack(rack: Rack, drawn: Drawn | undefined, height: number) {
  const scale = rack.capacity > 0 ? height / rack.capacity : 0;
  // Of one that is away only what archives took is known.
  const foreign = rack.present ? Math.max(0, rack.capacity - rack.free - rack.storedBytes) : 0;
  let y = height - 1;
  const courses: Course[] = [];
  const add = (key: string, bytes: number, fill: string, says: string) => {
    if (bytes <= 0) return;
    const tall = Math.max(LEAST_PX, bytes * scale - GAP_PX);
    y -= tall + GAP_PX;
    courses.push({ key, y: Math.max(0, y), height: tall, fill, says });
  };
  add('foreign', foreign, 'hatch', `Other files: ${formatBytes(foreign)}`);
  for (const { archiveId, deviceName, customerName, storedBytes, state } of drawn?.courses ?? [])
    add(
      archiveId,
      storedBytes,
      fills[state],
      `${deviceName}, ${customerName}: ${formatBytes(storedBytes)}`,
    );
  const { archives, storedBytes } = drawn?.others ?? { archives: 0, storedBytes: 0 };
  add(
    'others',
    storedBytes,
    'var(--edge)',
    `${archives} smaller archives: ${formatBytes(storedBytes)}`,
  );
  return { courses, top: y };
}

/** Where each archive that is drawn by itself stands in a drawing of that height. */
export function coursesOf(rack: Rack, drawn: Drawn, height: number) {
  const placed = new Map(stack(rack, drawn, height).courses.map((one) => [one.key, one]));
  return drawn.courses.flatMap((course) => {
    const at = placed.get(course.archiveId);
    return at ? { course, y: at.y, height: at.height } : [];
  });
}
