import type { RackDay } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import type { Inks } from '../design/chart.js';

/** Free room day by day, and the reserve below it. */
export function roomChart(days: readonly RackDay[], reserve: number, inks: Inks) {
  const [first, last] = [days[0]?.day ?? '', days.at(-1)?.day ?? ''];
  return {
    grid: { left: 72, right: 84, top: 12, bottom: 24 },
    xAxis: {
      type: 'time',
      axisLine: { lineStyle: { color: inks.soft } },
      axisLabel: { color: inks.soft, hideOverlap: true },
      splitLine: { show: false },
    },
    yAxis: {
      type: 'value',
      min: 0,
      splitNumber: 3,
      axisLabel: { color: inks.soft, formatter: (bytes: number) => formatBytes(bytes) },
      splitLine: { lineStyle: { color: inks.line } },
    },
    series: [
      line(
        'free',
        inks.ink,
        'solid',
        days.map(({ day, free }) => [day, free]),
      ),
      line('reserve', inks.danger, 'dashed', [
        [first, reserve],
        [last, reserve],
      ]),
    ],
  };
}

const line = (name: string, color: string, type: string, data: readonly unknown[]) => ({
  type: 'line',
  name,
  step: type === 'solid' ? 'end' : undefined,
  showSymbol: false,
  lineStyle: { color, type, width: 2 },
  endLabel: { show: true, formatter: name, color },
  data,
});
