import { formatBytes } from '@bright-cellar/core';
import { use, type ComponentProps } from 'react';
import { BytesFrom, useMedia } from '../bytes.js';

/** Where all of it is read for its picture, it is read of no longer ones. */
const READ_FOR_PREVIEW = 16 * 2 ** 20;
const SOON_S = 0.5;

interface Previewed {
  id: string;
  item: number;
  bytes: number;
}

/** A video’s picture soon after it begins: read from the little that holds it, or with all of a short one. */
export function VideoPreview(of: Previewed) {
  const { media } = use(BytesFrom);
  const from = media(of.id, of.item);
  if (typeof from === 'string') return <Still src={`${from}#t=${SOON_S}`} />;
  return of.bytes <= READ_FOR_PREVIEW && <WholePreview {...of} />;
}

function WholePreview(of: Previewed) {
  const { source } = useMedia(of);
  return source && <Still {...source} />;
}

/** @param from its address, or what shows it */
function Still(from: Pick<ComponentProps<'video'>, 'src' | 'ref'>) {
  return (
    <video
      {...from}
      preload="metadata"
      muted
      tabIndex={-1}
      aria-hidden
      onLoadedMetadata={({ currentTarget }) => (currentTarget.currentTime = SOON_S)}
      className="h-16 w-24 shrink-0 bg-line object-cover"
    />
  );
}

/** Plays a video or a sound: a part at a time, or once it was read. */
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
  const { source, isMissing, read } = useMedia({ id, item });
  if (isMissing) return <p className="text-small text-soft">It cannot be read to its end.</p>;
  if (!source) return <p className="text-small text-soft">Reading it: {formatBytes(read)}</p>;
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
