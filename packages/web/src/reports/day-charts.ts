import type { DayReport } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import type { Inks } from '../design/chart.js';

type Hour = DayReport['hours'][number];

/** The hours in which a shop is usually open; they are drawn whether anything ran or not. */
const OPEN = { from: 8, to: 18 };

/** The hours from the first to the last that somebody wants to see: a night's regular backups count like any other run. */
export function hoursShown(hours: readonly Hour[]): Hour[] {
  const ran = hours.filter((h) => h.runs > 0).map((h) => h.hour);
  const from = Math.min(OPEN.from, ...ran);
  const to = Math.max(OPEN.to, ...ran);
  return hours.filter(({ hour }) => hour >= from && hour <= to);
}

/** How much went through in each hour, how many runs that was, and whether any ended badly. */
export function hoursChart(hours: readonly Hour[], inks: Inks) {
  return {
    grid: { left: 62, right: 8, top: 18, bottom: 24 },
    xAxis: {
      type: 'category',
      data: hours.map(({ hour }) => String(hour)),
      axisLine: { lineStyle: { color: inks.soft } },
      axisLabel: { color: inks.soft },
    },
    yAxis: {
      type: 'value',
      axisLabel: { color: inks.soft, formatter: (n: number) => formatBytes(n) },
      splitLine: { lineStyle: { color: inks.line } },
    },
    series: [
      {
        type: 'bar',
        data: hours.map(({ bytes, failed }) => ({
          value: bytes,
          itemStyle: { color: failed > 0 ? inks.danger : inks.ink },
        })),
        label: {
          show: true,
          position: 'top',
          color: inks.ink,
          formatter: ({ dataIndex }: { dataIndex: number }) => {
            const hour = hours[dataIndex];
            return hour && hour.runs > 0 ? String(hour.runs) : '';
          },
        },
      },
    ],
  };
}

/** Errors beyond this are drawn at the edge: one strange run must not hide all others. */
const EDGE = 60;

/** How far sizes and times were from what was expected, in percent, the oldest first. */
export function errorsChart(estimates: DayReport['estimates'], inks: Inks) {
  const points = (error: (e: (typeof estimates)[number]) => number) =>
    estimates.map((e, i) => [i + 1, Math.max(-EDGE, Math.min(EDGE, error(e) * 100))]);
  const last = estimates.at(-1);
  // The two words stand apart from each other, whichever point is the higher.
  const isSizeAbove = !last || last.storedError >= last.timeError;
  return {
    grid: { left: 62, right: 52, top: 10, bottom: 24 },
    xAxis: { type: 'value', min: 0, max: estimates.length + 1, show: false },
    yAxis: {
      type: 'value',
      min: -EDGE,
      max: EDGE,
      axisLabel: { color: inks.soft, formatter: (n: number) => `${n > 0 ? '+' : ''}${n} %` },
      splitLine: { lineStyle: { color: inks.line } },
    },
    series: [
      series(
        'size',
        'circle',
        inks.ink,
        points((e) => e.storedError),
        isSizeAbove ? 'top' : 'bottom',
      ),
      series(
        'time',
        'diamond',
        inks.proven,
        points((e) => e.timeError),
        isSizeAbove ? 'bottom' : 'top',
      ),
    ],
  };
}

/** Points, the last of which is labelled: no legend to look up. */
function series(
  name: string,
  symbol: string,
  color: string,
  data: number[][],
  position: 'top' | 'bottom',
) {
  return {
    type: 'scatter',
    name,
    symbol,
    symbolSize: 8,
    itemStyle: { color },
    data: data.map((value, i) => ({
      value,
      label: {
        show: i === data.length - 1,
        position,
        formatter: name,
        color,
      },
    })),
  };
}
