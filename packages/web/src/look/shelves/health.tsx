import type { ShelfRow } from '@bright-cellar/contract';
import { countOf } from '@bright-cellar/core';
import { useCallback } from 'react';
import { Chart, type Inks } from '../../design/chart.js';
import { day } from '../../design/dates.js';
import { Loading } from '../../design/loading.js';
import { useShelf, type Shown } from './use-shelf.js';

type Series = ShelfRow<'health'>;

/** What was measured, a chart each over all of its time. */
export function Health(shown: Shown) {
  const read = useShelf('health', shown);
  if (!read) return <Loading what="Drawing what was measured" />;
  if (read.rows.length === 0) return <p className="text-soft">Nothing was measured.</p>;
  return (
    <div
      className="flex max-h-[64vh] flex-col gap-4 overflow-y-auto"
      tabIndex={0}
      role="region"
      aria-label="What was measured"
    >
      {read.rows.map((series) => (
        <Line key={`${series.what} ${series.unit}`} series={series} />
      ))}
    </div>
  );
}

function Line({ series: { what, unit, measurements, days } }: { series: Series }) {
  // A count is what there was of a day; anything else is what it was about.
  const isCount = unit === '';
  const draw = useCallback(
    ({ ink, soft, line }: Inks) => ({
      grid: { left: 56, right: 16, top: 10, bottom: 24 },
      xAxis: { type: 'time', axisLabel: { color: soft }, axisLine: { lineStyle: { color: line } } },
      yAxis: {
        type: 'value',
        scale: !isCount,
        axisLabel: { color: soft },
        splitLine: { lineStyle: { color: line } },
      },
      series: [
        isCount
          ? {
              type: 'bar',
              itemStyle: { color: ink },
              data: days.map(({ day: at, sum }) => [at, sum]),
            }
          : {
              type: 'line',
              showSymbol: days.length < 40,
              itemStyle: { color: ink },
              lineStyle: { color: ink, width: 1.5 },
              data: days.map(({ day: at, mean }) => [at, Math.round(mean * 100) / 100]),
            },
      ],
    }),
    [days, isCount],
  );
  const low = Math.min(...days.map((one) => (isCount ? one.sum : one.low)));
  const high = Math.max(...days.map((one) => (isCount ? one.sum : one.high)));
  const words = `${what}${unit && `, ${unit}`}: ${low.toLocaleString('en')} to ${high.toLocaleString('en')}`;
  return (
    <section aria-label={what} className="border border-line bg-surface px-3 py-2">
      <h3 className="font-semibold">{words}</h3>
      <p className="text-small text-soft">
        {countOf(measurements, 'measurement')}, {day(days[0]?.day ?? '')} to{' '}
        {day(days.at(-1)?.day ?? '')}
        {isCount ? ', added up by day' : ', the mean of each day'}
      </p>
      <Chart label={words} height={150} draw={draw} />
    </section>
  );
}
