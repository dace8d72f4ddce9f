import pino, { type Logger } from 'pino';

export type Log = Logger;

/** Structured lines on standard output. Log ids, kinds, counts and codes; never names, paths or passwords. */
export function makeLog(process: string, level: string): Log {
  return pino({ base: { process }, level });
}

/** What may be logged of a thrown value: its kind and where it was thrown, not its message, which may name customers' files. */
export function describeError(error: unknown): object {
  if (!(error instanceof Error)) return { kind: typeof error };
  const code = 'code' in error ? String(error.code) : undefined;
  const frames = error.stack?.split('\n').filter((line) => /^\s+at /.test(line));
  return {
    kind: error.name,
    ...(code ? { code } : {}),
    at: frames?.slice(0, 4).map((line) => line.trim()),
    ...(error.cause ? { cause: describeError(error.cause) } : {}),
  };
}
