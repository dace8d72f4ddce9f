import { skipToken, useQuery } from '@tanstack/react-query';
import {
  lookMediaPath,
  lookPicturePath,
  lookTakeOutPath,
  type Pictured,
} from '@bright-cellar/contract';
import { createContext, use, useCallback, useState } from 'react';
import { Button } from '../design/button.js';
import { lookKey } from './queries.js';

/** Where the bytes of what is read come from. */
export interface Bytes {
  /** A picture drawn anew, at most so many pixels wide and high: where it is fetched, or itself. */
  picture: (id: string, what: Pictured, pixels: number) => string | (() => Promise<Blob>);
  /** What is played: where it is fetched, or itself. */
  media: (id: string, item: number) => string | ((onRead: OnRead) => Promise<Blob>);
  /** Fetches what was taken out; this page stays. */
  fetchPackage: (id: string, takeOut: string) => void;
  /** Saves one file as it is; null where nothing goes out but what is taken out on record. */
  save: ((item: number) => Promise<void>) | null;
}

/** Told of the bytes that were read so far. */
type OnRead = (bytes: number) => void;

/** The browser fetches it like any other file. */
export function download(address: string, name = ''): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
}

/** At the counter the server is asked. */
const fromServer: Bytes = {
  picture: lookPicturePath,
  media: lookMediaPath,
  fetchPackage: (id, takeOut) => download(lookTakeOutPath(id, takeOut)),
  save: null,
};

export const BytesFrom = createContext(fromServer);

export function LookPicture({
  id,
  of,
  number,
  pixels,
  alt,
  className,
  loading,
}: Pictured & { id: string; pixels: number; alt: string; className: string; loading?: 'lazy' }) {
  const { picture } = use(BytesFrom);
  const { source, isMissing } = useSource(
    [id, `picture ${pixels}`, of, number],
    picture(id, { of, number }, pixels),
  );
  if (isMissing) return <span className="text-small text-soft">It cannot be drawn.</span>;
  // On its way: without an address it would look like one that is broken.
  if (!source)
    return (
      <span className={`inline-block text-small text-soft ${className}`}>
        {alt && 'Drawing it'}
      </span>
    );
  return <img {...{ alt, className, loading }} {...source} />;
}

/** What a player plays, null until that is there; and how much of it was read, where it is read whole. */
export function useMedia({ id, item }: { id: string; item: number }) {
  const { media } = use(BytesFrom);
  const [read, setRead] = useState(0);
  const from = media(id, item);
  const source = useSource(
    [id, 'media', item],
    typeof from === 'string' ? from : () => from(setRead),
  );
  return { ...source, read };
}

/** Where an element finds what it shows: an address, or bytes that are here. Nobody finds those once they are not shown any more. */
function useSource(
  [id, ...key]: [string, ...(string | number)[]],
  from: string | (() => Promise<Blob>),
) {
  const isHere = typeof from !== 'string';
  const { data, isError } = useQuery({
    queryKey: [...lookKey(id), 'bytes', ...key],
    queryFn: isHere ? from : skipToken,
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
  });
  const ref = useCallback(
    (element: HTMLImageElement | HTMLMediaElement | null) => {
      if (!element || !data) return;
      const address = URL.createObjectURL(data);
      element.src = address;
      return () => {
        // Whoever still reads it would complain that it is gone.
        element.removeAttribute('src');
        URL.revokeObjectURL(address);
      };
    },
    [data],
  );
  const source = !isHere ? { src: from } : data ? { ref } : null;
  return { source, isMissing: isError };
}

/** Saves one file as it is, where that needs no word on record. */
export function SaveThis({ item, path }: { item: number; path: string }) {
  const { save } = use(BytesFrom);
  const [isSaving, setSaving] = useState(false);
  const [hasFailed, setFailed] = useState(false);
  if (!save) return null;
  return (
    <>
      <Button
        busy={isSaving}
        aria-label={`Save ${path}`}
        onClick={() => {
          setSaving(true);
          setFailed(false);
          void save(item)
            .catch(() => setFailed(true))
            .finally(() => setSaving(false));
        }}
      >
        Save this
      </Button>
      {hasFailed && (
        <span role="alert" className="text-small text-danger">
          It was not saved: it is damaged, or the stick is gone. Plug it in, open it again, and try
          once more.
        </span>
      )}
    </>
  );
}
