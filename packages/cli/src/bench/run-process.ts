import { spawn, spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

export interface Run {
  seconds: number;
  /** Largest resident memory of the process itself, bytes; 0 where it was not watched. */
  peakBytes: number;
}

const POLL_MS = 20;

/**
 * Runs a command to its end. What was written before is on the medium when it begins, so that no run pays
 * for another.
 * @throws Error when it fails.
 */
export async function run(program: string, args: string[], cwd: string): Promise<Run> {
  spawnSync('sync');
  const began = performance.now();
  const child = spawn(program, args, { cwd, stdio: ['ignore', 'ignore', 'pipe'] });
  let complaint = '';
  child.stderr.on('data', (piece: Buffer) => (complaint += piece.toString()));
  let peakBytes = 0;
  const watch = setInterval(() => (peakBytes = Math.max(peakBytes, peakOf(child.pid))), POLL_MS);
  const code = await new Promise<number | null>((resolve, reject) => {
    child.once('error', reject);
    child.once('close', resolve);
  });
  const seconds = (performance.now() - began) / 1000;
  clearInterval(watch);
  if (code !== 0) throw new Error(`${program} ${args.join(' ')} ended with ${code}: ${complaint}`);
  return { seconds, peakBytes };
}

export const shell = (line: string, cwd: string): Promise<Run> =>
  run('bash', ['-c', `set -o pipefail; ${line}`], cwd);

/** The kernel's own record of the most memory that a process ever had. */
function peakOf(pid: number | undefined): number {
  try {
    const status = readFileSync(`/proc/${pid ?? 0}/status`, 'utf8');
    return Number(/^VmHWM:\s+(\d+) kB$/m.exec(status)?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}
