import { lazy, Suspense, useState } from 'react';

/** Degrees. */
export interface Place {
  latitude: number;
  longitude: number;
}

const Drawn = lazy(async () => ({ default: (await import('./place-map-drawn.js')).PlaceMapDrawn }));

/** Where something was, on a plain map that comes with the program: nobody else is asked for one. */
export function PlaceMap({ places, label }: { places: readonly Place[]; label: string }) {
  const [isOpen, setOpen] = useState(false);
  if (places.length === 0) return null;
  return (
    <details
      className="border border-line bg-surface px-3 py-2"
      onToggle={({ currentTarget }) => setOpen(currentTarget.open)}
    >
      <summary className="cursor-pointer font-semibold">On the map</summary>
      {isOpen && (
        <Suspense fallback={<p className="h-[280px] text-soft">Drawing it</p>}>
          <Drawn places={places} label={label} />
        </Suspense>
      )}
    </details>
  );
}
