import { Printer } from 'lucide-react';

/** A paper to print, in a window of its own. */
export function Paper({ path, name }: { path: string; name: string }) {
  return (
    <a
      href={path}
      target="_blank"
      rel="noreferrer"
      className="inline-flex h-9 items-center gap-2 rounded-sm border border-edge bg-surface px-3 font-semibold whitespace-nowrap hover:bg-ground"
    >
      <Printer aria-hidden className="size-4" /> {name}
    </a>
  );
}
