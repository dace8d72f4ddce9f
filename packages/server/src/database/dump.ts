import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';

/** Where a database is, for MariaDB’s own tools. The password is given beside, not where other users of the machine can read it. */
function toolArguments(url: string) {
  const { hostname, port, username, password, pathname } = new URL(url);
  return {
    args: [
      ...['--no-defaults', `--host=${hostname}`, `--port=${port}`, '--protocol=tcp'],
      `--user=${decodeURIComponent(username)}`,
    ],
    database: pathname.slice(1),
    env: { ...process.env, MYSQL_PWD: decodeURIComponent(password) },
  };
}

/** @throws Error that says what the tool said last */
async function ended(child: ChildProcess, said: () => string): Promise<void> {
  const [code] = (await once(child, 'close')) as [number | null];
  if (code !== 0) throw new Error(said() || `it ended with ${code ?? 'a signal'}`);
}

/** What a tool says of itself, the end of it. */
function lastWords(child: ChildProcess): () => string {
  let text = '';
  child.stderr?.on('data', (piece: Buffer) => (text = `${text}${piece.toString()}`.slice(-1000)));
  return () => text.trim();
}

/**
 * All of a database as SQL, of one moment, while others write: `mariadb-dump`. Without the triggers: they are made anew by whoever may.
 * @throws Error where it cannot be read to its end
 */
export async function* dumpOf(url: string): AsyncGenerator<Buffer> {
  const { args, database, env } = toolArguments(url);
  const child = spawn(
    'mariadb-dump',
    [
      ...args,
      ...['--single-transaction', '--quick', '--hex-blob', '--skip-triggers', '--skip-lock-tables'],
      ...['--no-tablespaces', '--skip-dump-date', '--default-character-set=utf8mb4'],
      ...['--', database],
    ],
    { env, stdio: ['ignore', 'pipe', 'pipe'] },
  );
  const end = ended(child, lastWords(child));
  end.catch(() => undefined);
  yield* child.stdout as AsyncIterable<Buffer>;
  await end;
}

/** Runs such SQL in a database. No line of it is a command to the tool itself. @throws Error that says where it stopped */
export async function loadInto(url: string, sql: Readable): Promise<void> {
  const { args, database, env } = toolArguments(url);
  const child = spawn(
    'mariadb',
    [...args, '--binary-mode', '--batch', '--default-character-set=utf8mb4', '--', database],
    { env, stdio: ['pipe', 'ignore', 'pipe'] },
  );
  const end = ended(child, lastWords(child));
  end.catch(() => undefined);
  // Where the tool gives up, what it says is the reason; that it takes no more is not.
  await pipeline(sql, child.stdin).catch((error: unknown) => {
    if (!(error instanceof Error && 'code' in error && error.code === 'EPIPE')) throw error;
  });
  await end;
}
