import { serialRead } from '@bright-cellar/core';

/** A serial or ticket number: set so that no character is taken for another, and never broken. */
export function Serial({ children }: { children: string }) {
  const text = serialRead(children);
  if (text === null) return <span className="text-soft">not read</span>;
  return <span className="font-mono text-[0.95em] whitespace-nowrap">{text}</span>;
}

/** A digest or a folder's name: long, so broken where the line ends. */
export function Digest({ children }: { children: string }) {
  return <span className="font-mono text-[0.9em] break-all">{children}</span>;
}
