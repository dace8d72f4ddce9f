import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { formatBytes } from '@bright-cellar/core';
import { measureEngine, type Measured } from './measure.js';

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

/** Bytes of `500M`, `2G`. */
function bytesOf(text: string): number {
  const [, number = '', unit = ''] = /^(\d+(?:\.\d+)?)([MG])$/.exec(text) ?? [];
  if (!number) throw new Error('A size is a number with M or G, for example 2G.');
  return Number(number) * (unit === 'G' ? 1e9 : 1e6);
}

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

function table({ size, rounds, measures, peakBytes }: Measured): string {
  const row = (cells: string[]) =>
    `${(cells[0] ?? '').padEnd(32)} ${(cells[1] ?? '').padEnd(30)} ${cells
      .slice(2)
      .map((cell) => cell.padStart(10))
      .join(' ')}\n`;
  const rows = measures.map(({ name, baseline, baselineSeconds, seconds, ratio, aim }) =>
    row([
      name,
      baseline,
      `${baselineSeconds.toFixed(2)} s`,
      `${seconds.toFixed(2)} s`,
      ratio.toFixed(3),
      `≤ ${aim}`,
      ratio <= aim ? 'met' : 'missed',
    ]),
  );
  return [
    `\n${formatBytes(size)}, median of ${rounds}\n`,
    row(['measure', 'baseline', 'baseline', 'cellar', 'ratio', 'aim', '']),
    ...rows,
    ...Object.entries(peakBytes).map(([command, bytes]) =>
      row([
        `peak memory, ${command}`,
        '',
        '',
        formatBytes(bytes),
        '',
        `≤ ${formatBytes(MEMORY_AIM)}`,
        bytes <= MEMORY_AIM ? 'met' : 'missed',
      ]),
    ),
  ].join('');
}

const size = bytesOf(values.size);
const sizes = values.growth ? [size, 4 * size, 16 * size] : [size];
const all: Measured[] = [];
for (const each of sizes) {
  const measured = await measure(each);
  all.push(measured);
  process.stdout.write(table(measured));
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
