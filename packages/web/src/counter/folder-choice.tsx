import { useQuery } from '@tanstack/react-query';
import { formatBytes } from '@bright-cellar/core';
import { CornerLeftUp, Folder } from 'lucide-react';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Note, ProblemNote } from '../design/note.js';

const item =
  'flex min-h-9 w-full items-center gap-2 px-3 py-1.5 text-left -outline-offset-2 hover:bg-ground';

/** One folder of the storage that is mounted on this computer: a whole medium, or one somewhere in it. */
export function FolderChoice({
  path,
  onChange,
}: {
  /** Empty while none is chosen. */
  path: string;
  onChange: (path: string) => void;
}) {
  const places = useQuery(queries.storagePlaces());
  const inside = useQuery({ ...queries.storageFolders(path), enabled: path !== '' });
  const place = places.data?.find((one) => path === one.path || path.startsWith(`${one.path}/`));
  const up = place?.path === path ? '' : path.slice(0, path.lastIndexOf('/'));
  return (
    <div role="group" aria-label="Where it is mounted" className="flex flex-col gap-2">
      <p className="font-semibold" aria-live="polite">
        {path === '' ? 'Where it is mounted' : <span className="font-mono break-all">{path}</span>}
      </p>
      {places.data?.length === 0 && (
        <Note tone="plain">
          Nothing is mounted on this computer that is not a rack. Connect the device or the drive,
          and open it there: it appears here by itself.
        </Note>
      )}
      {(places.error ?? inside.error) && (
        <ProblemNote problem={problemFrom(places.error ?? inside.error)} />
      )}
      <ul className="max-h-44 divide-y divide-line overflow-y-auto border border-line empty:hidden">
        {path === ''
          ? places.data?.map((one) => (
              <li key={one.path}>
                <button type="button" className={item} onClick={() => onChange(one.path)}>
                  <span className="min-w-0 flex-1 font-mono break-all">{one.path}</span>
                  <span className="text-small text-soft">
                    {formatBytes(one.capacity - one.free)} of {formatBytes(one.capacity)} in use
                  </span>
                </button>
              </li>
            ))
          : [
              <li key="up">
                <button type="button" className={item} onClick={() => onChange(up)}>
                  <CornerLeftUp className="size-4 shrink-0" aria-hidden />
                  {up === '' ? 'Another medium' : 'Back'}
                </button>
              </li>,
              ...(inside.data?.folders ?? []).map((name) => (
                <li key={`/${name}`}>
                  <button
                    type="button"
                    className={item}
                    onClick={() => onChange(`${path}/${name}`)}
                  >
                    <Folder className="size-4 shrink-0" aria-hidden />
                    <span className="break-all">{name}</span>
                  </button>
                </li>
              )),
            ]}
      </ul>
    </div>
  );
}
