import { use } from 'react';
import { BytesFrom, useMedia } from '../bytes.js';

/** A video’s picture soon after it begins, read from the little that holds it; nothing where all of it would have to be read for that. */
export function VideoPreview({ id, item }: { id: string; item: number }) {
  const { media } = use(BytesFrom);
  const from = media(id, item);
  if (typeof from !== 'string') return null;
  return (
    <video
      src={`${from}#t=0.5`}
      preload="metadata"
      muted
      tabIndex={-1}
      aria-hidden
      className="h-16 w-24 shrink-0 bg-line object-cover"
    />
  );
}

/** Plays a video or a sound, a part at a time. */
export function Player({
  id,
  item,
  path,
  plays,
}: {
  id: string;
  item: number;
  path: string;
  plays: string;
}) {
  const { source, isMissing } = useMedia({ id, item });
  if (isMissing) return <p className="text-small text-soft">It cannot be read to its end.</p>;
  if (!source) return <p className="text-small text-soft">Reading it</p>;
  return plays.startsWith('video/') ? (
    <video
      controls
      autoPlay
      {...source}
      aria-label={`Video ${path}`}
      className="max-h-[45vh] max-w-full self-start bg-ink"
    />
  ) : (
    <audio controls autoPlay {...source} aria-label={`Sound ${path}`} />
  );
}
