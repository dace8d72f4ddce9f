import { setTimeout as sleep } from 'node:timers/promises';
import { expect, test } from 'vitest';
import { speedLimit, whileBenchWorks } from './give-way.js';

const never = new AbortController().signal;

test('what gives way stands still while the bench works, says so once, and goes on', async () => {
  let works = true;
  const said: string[] = [];
  const waits = whileBenchWorks(
    () => works,
    () => said.push('rests'),
    never,
  ).then(() => said.push('goes on'));
  await sleep(300);
  expect(said).toEqual(['rests']);
  works = false;
  await waits;
  expect(said).toEqual(['rests', 'rests', 'goes on']);
  await whileBenchWorks(
    () => false,
    () => said.push('for nothing'),
    never,
  );
  expect(said).not.toContain('for nothing');
});

test('a stop ends the waiting', async () => {
  const stop = new AbortController();
  const waits = whileBenchWorks(
    () => true,
    () => undefined,
    stop.signal,
  );
  stop.abort(new Error('stopped'));
  await expect(waits).rejects.toThrow(/abort/i);
});

test('no more passes in a second than may', async () => {
  const pass = speedLimit(1_000_000, never);
  const began = performance.now();
  for (let piece = 0; piece < 5; piece++) await pass(100_000);
  // The fifth waits for the four before it.
  expect(performance.now() - began).toBeGreaterThan(380);
  const free = speedLimit(null, never);
  // At any limit that it knows this would take days.
  for (let piece = 0; piece < 5; piece++) await free(1e12);
});
