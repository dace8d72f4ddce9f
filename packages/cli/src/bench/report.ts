import { formatBytes } from '@bright-cellar/core';
import type { Measured } from './pair.js';

/** Bytes of `500M`, `2G`. */
export function bytesOf(text: string): number {
  const [, number = '', unit = ''] = /^(\d+(?:\.\d+)?)([MG])$/.exec(text) ?? [];
  if (!number) throw new Error('A size is a number with M or G, for example 2G.');
  return Number(number) * (unit === 'G' ? 1e9 : 1e6);
}

/** @param memoryAim bytes that no command should have at once */
export function table({ size, rounds, measures, peakBytes }: Measured, memoryAim: number): string {
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
        `≤ ${formatBytes(memoryAim)}`,
        bytes <= memoryAim ? 'met' : 'missed',
      ]),
    ),
  ].join('');
}
