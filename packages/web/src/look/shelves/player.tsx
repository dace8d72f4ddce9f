import { useMedia } from '../bytes.js';

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
