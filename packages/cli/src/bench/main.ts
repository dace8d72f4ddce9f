import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { formatBytes } from '@bright-cellar/core';
import { measureEngine } from './measure.js';
import type { Measured } from './pair.js';
import { bytesOf, table } from './report.js';

/**
 * Measures the engine beside ordinary tools, in the same run on the same data, and prints a table and one
 * line of JSON. `--growth` measures 1, 4 and 16 times the size and compares the time per byte.
 */
const MEMORY_AIM = 400e6;

const { values } = parseArgs({
  options: {
    size: { type: 'string', default: '2G' },
    rounds: { type: 'string', default: '3' },
    folder: { type: 'string', default: tmpdir() },
    growth: { type: 'boolean', default: false },
  },
});

async function measure(size: number): Promise<Measured> {
  const folder = mkdtempSync(join(values.folder, 'cellar-measure-'));
  try {
    return await measureEngine(folder, size, Number(values.rounds), (text) => {
      if (process.stderr.isTTY) process.stderr.write(`\r\x1b[K${formatBytes(size)}: ${text}`);
    });
  } finally {
    if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
    rmSync(folder, { recursive: true, force: true });
  }
}

const size = bytesOf(values.size);
const sizes = values.growth ? [size, 4 * size, 16 * size] : [size];
const all: Measured[] = [];
for (const each of sizes) {
  const measured = await measure(each);
  all.push(measured);
  process.stdout.write(table(measured, MEMORY_AIM));
}
if (values.growth) {
  process.stdout.write('\nseconds per gigabyte\n');
  for (const [number, { name }] of (all[0]?.measures ?? []).entries()) {
    const each = all.map((m) => ((m.measures[number]?.seconds ?? 0) / m.size) * 1e9);
    process.stdout.write(
      `${name.padEnd(32)} ${each.map((s) => s.toFixed(2).padStart(8)).join(' ')}\n`,
    );
  }
}
process.stdout.write(`${JSON.stringify({ measured: all })}\n`);
