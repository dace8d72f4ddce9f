import { describe, expect, test } from 'vitest';
import { errorsChart, hoursChart, hoursShown } from './day-charts.js';

const inks = { ink: 'ink', soft: 'soft', line: 'line', danger: 'danger', proven: 'proven' };
/** A day in which so many bytes were moved in these hours, by one run each. */
const day = (bytes: Record<number, number>, badly: number[] = []) =>
  Array.from({ length: 24 }, (_, hour) => ({
    hour,
    runs: hour in bytes ? 1 : 0,
    failed: badly.includes(hour) ? 1 : 0,
    bytes: bytes[hour] ?? 0,
  }));
const shown = (bytes: Record<number, number>) => {
  const hours = hoursShown(day(bytes)).map((h) => h.hour);
  return [hours[0], hours.at(-1)];
};

describe('the hours of a day', () => {
  test('are those in which the shop is open', () => {
    expect(shown({})).toEqual([8, 18]);
    expect(shown({ 9: 1e9, 17: 2e9 })).toEqual([8, 18]);
  });

  test('reach as far as anything ran, at night too', () => {
    expect(shown({ 2: 1e9, 9: 1e9 })).toEqual([2, 18]);
    expect(shown({ 22: 5 })).toEqual([8, 22]);
  });

  test('tell how many runs there were, and stand out where one ended badly', () => {
    const { series } = hoursChart(hoursShown(day({ 9: 1e9, 10: 3e9 }, [10])), inks);
    const [bars] = series;
    expect(bars?.data.slice(1, 3)).toEqual([
      { value: 1e9, itemStyle: { color: 'ink' } },
      { value: 3e9, itemStyle: { color: 'danger' } },
    ]);
    const label = (dataIndex: number) => bars?.label.formatter({ dataIndex });
    expect([label(0), label(1)]).toEqual(['', '1']);
  });
});

test('one strange estimate is drawn at the edge, and does not hide the others', () => {
  const error = (storedError: number, timeError: number) => ({
    at: '2026-11-24T12:00:00.000Z',
    ticketNumber: '26110001',
    storedError,
    timeError,
    storedInRange: true,
    timeInRange: true,
  });
  const { series, yAxis } = errorsChart([error(0.02, 9), error(-0.03, -0.1)], inks);
  const points = series.map((s) => s.data.map((d) => d.value));
  expect(points).toEqual([
    [
      [1, 2],
      [2, -3],
    ],
    [
      [1, yAxis.max],
      [2, -10],
    ],
  ]);
  // The words are never between two points that are close to each other.
  const places = (size: number, time: number) =>
    errorsChart([error(size, time)], inks).series.map((s) => s.data[0]?.label.position);
  expect([places(0.1, 0.05), places(0.05, 0.1)]).toEqual([
    ['top', 'bottom'],
    ['bottom', 'top'],
  ]);
  // Only the last of each is labelled.
  expect(series.map((s) => s.data.map((d) => d.label.show))).toEqual([
    [false, true],
    [false, true],
  ]);
});
