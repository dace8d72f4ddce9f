import {
  DndContext,
  KeyboardCode,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  rectIntersection,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type CollisionDetection,
  type KeyboardCoordinateGetter,
} from '@dnd-kit/core';
import type { Elevation, Rack } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import clsx from 'clsx';
import type { KeyboardEvent, ReactNode } from 'react';
import { coursesOf } from './elevation.js';

interface Held {
  archiveId: string;
  from: string;
  what: string;
}
const heldOf = (data: object | undefined): Held | undefined =>
  data && 'archiveId' in data ? (data as Held) : undefined;

/** Where an archive that is held goes with the next press of an arrow: to the rack beside. */
const toRackBeside: KeyboardCoordinateGetter = (event, { currentCoordinates, context }) => {
  const step = { [KeyboardCode.Right]: 1, [KeyboardCode.Left]: -1 }[event.code] ?? 0;
  if (step === 0) return undefined;
  event.preventDefault();
  const places = [...context.droppableRects.values()].sort(
    (a, b) => a.top - b.top || a.left - b.left,
  );
  const over = context.over?.id;
  const ids = [...context.droppableRects.keys()];
  const at = places.findIndex((rect) => rect === context.droppableRects.get(over ?? ids[0] ?? ''));
  const next = places[Math.min(places.length - 1, Math.max(0, at + step))];
  return next ? { x: next.left + 12, y: next.top + next.height / 2 } : currentCoordinates;
};

const underPointer: CollisionDetection = (args) =>
  args.pointerCoordinates ? pointerWithin(args) : rectIntersection(args);

/** Racks between which archives are dragged: with the mouse, or held with the space bar and carried with the arrows. */
export function Racking({
  names,
  onMove,
  children,
}: {
  /** Of racks, by id. */
  names: ReadonlyMap<string, string>;
  onMove: (archiveId: string, from: string, to: string) => void;
  children: ReactNode;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: toRackBeside }),
  );
  const say = (id: unknown) => names.get(String(id)) ?? 'no rack';
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={underPointer}
      accessibility={{
        screenReaderInstructions: {
          draggable:
            'Press the space bar to take hold of it, the left and right arrows to carry it to another rack, the space bar to plan the move, Escape to leave it. Up and down go to another archive.',
        },
        announcements: {
          onDragStart: ({ active }) => `${heldOf(active.data.current)?.what ?? 'It'} is held.`,
          onDragOver: ({ over }) => (over ? `Over ${say(over.id)}.` : 'Over no rack.'),
          onDragEnd: ({ over }) =>
            over ? `Planned onto ${say(over.id)}.` : 'It stays where it is.',
          onDragCancel: () => 'It stays where it is.',
        },
      }}
      onDragEnd={({ active, over }) => {
        const held = heldOf(active.data.current);
        if (held && over && over.id !== held.from)
          onMove(held.archiveId, held.from, String(over.id));
      }}
    >
      {children}
    </DndContext>
  );
}

/** A place where an archive can be put down. */
export function RackTarget({ id, children }: { id: string; children: ReactNode }) {
  const { setNodeRef, isOver, active } = useDroppable({ id });
  const takes = isOver && heldOf(active?.data.current)?.from !== id;
  return (
    <div ref={setNodeRef} className={clsx('relative', takes && 'outline-4 outline-lamp')}>
      {children}
    </div>
  );
}

/** The archives of a rack, over its drawing, each to be taken hold of. The tab key goes to the first; arrows to the others. */
export function Courses({ rack, drawn, height }: { rack: Rack; drawn: Elevation; height: number }) {
  return (
    <div className="absolute inset-0">
      {coursesOf(rack, drawn, height).map(({ course, y, height: tall }, at) => (
        <Course
          key={course.archiveId}
          archiveId={course.archiveId}
          rackId={rack.id}
          what={`${course.deviceName}, ${course.customerName}, ${formatBytes(course.storedBytes)}`}
          top={y}
          height={tall}
          isFirst={at === 0}
        />
      ))}
    </div>
  );
}

const walk = (event: KeyboardEvent<HTMLElement>): boolean => {
  const { currentTarget } = event;
  const next =
    event.key === 'ArrowUp'
      ? currentTarget.nextElementSibling
      : event.key === 'ArrowDown'
        ? currentTarget.previousElementSibling
        : null;
  if (!(next instanceof HTMLElement)) return false;
  event.preventDefault();
  next.focus();
  return true;
};

function Course({
  archiveId,
  rackId,
  what,
  top,
  height,
  isFirst,
}: {
  archiveId: string;
  rackId: string;
  what: string;
  top: number;
  height: number;
  isFirst: boolean;
}) {
  const held: Held = { archiveId, from: rackId, what };
  const { setNodeRef, attributes, listeners, transform, isDragging } = useDraggable({
    id: `${rackId} ${archiveId}`,
    data: held,
  });
  return (
    <button
      ref={setNodeRef}
      type="button"
      {...attributes}
      {...listeners}
      tabIndex={isFirst ? 0 : -1}
      aria-label={what}
      title={what}
      onKeyDown={(event) => {
        if (isDragging || !walk(event)) listeners?.onKeyDown?.(event);
      }}
      className={clsx(
        'absolute inset-x-0 touch-none cursor-grab border-0 bg-transparent focus-visible:z-10',
        isDragging ? 'z-20 cursor-grabbing border-2 border-ink bg-lamp' : 'hover:bg-lamp/40',
      )}
      style={{
        top,
        height,
        ...(transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : {}),
      }}
    />
  );
}
