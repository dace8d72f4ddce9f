import { Failure } from '@bright-cellar/core';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { Output } from './output.js';

let said: string;
let complained: string;
beforeEach(() => {
  said = '';
  complained = '';
  vi.useFakeTimers({ now: 1_000_000 });
  vi.spyOn(process.stdout, 'write').mockImplementation((text) => {
    said += text.toString();
    return true;
  });
  vi.spyOn(process.stderr, 'write').mockImplementation((text) => {
    complained += text.toString();
    return true;
  });
});
afterEach(() => {
  vi.restoreAllMocks();
  vi.unstubAllEnvs();
  vi.useRealTimers();
});

const lines = () => said.split('\n').filter(Boolean);
const objects = () => lines().map((line) => JSON.parse(line) as Record<string, unknown>);

/** A phase of `total` bytes in pieces, a second apart. */
function work(output: Output, total: number, pieces: number): void {
  output.phase('packing', { bytes: total, items: pieces });
  for (let n = 0; n < pieces; n++) {
    vi.advanceTimersByTime(1000);
    output.progress(total / pieces, 1);
  }
}

describe('for a person', () => {
  test('results are sentences, and a pipe gets nothing but results', () => {
    const output = new Output(false);
    work(output, 1000, 4);
    output.say('Packed.', { type: 'packed', items: 4 });
    expect(said).toBe('Packed.\n');
    expect(complained).toBe('');
  });

  test('a failure says what happened, what is safe and what to do, beside the results', () => {
    new Output(false).fail(new Failure('wrong-password'));
    expect(said).toBe('');
    expect(complained).toBe(
      'The password does not open this backup.\nNothing was written or changed.\nAsk its holder to type it again. Nobody can recover a lost one.\n',
    );
  });

  test('an error that nobody foresaw keeps its inside to itself, unless that is asked for', () => {
    const error = new Error('connect to /srv/secret-place failed');
    new Output(false).fail(error);
    expect(complained).not.toContain('secret-place');
    expect(complained.trim().split('\n')).toHaveLength(3);
    vi.stubEnv('CELLAR_DEBUG', '1');
    new Output(false).fail(error);
    expect(complained).toContain('secret-place');
  });
});

describe('for a script', () => {
  test('every line is one object: progress, then the result', () => {
    const output = new Output(true);
    work(output, 1000, 4);
    output.say('Packed.', { type: 'packed', items: 4 });
    const all = objects();
    expect(all.at(-1)).toEqual({ type: 'packed', items: 4 });
    expect(all.slice(0, -1)).toEqual(
      [250, 500, 750, 1000].map((bytes, n) => ({
        type: 'progress',
        phase: 'packing',
        bytes,
        items: n + 1,
        total: 1000,
        rate: n === 0 ? 0 : 250,
      })),
    );
  });

  test('progress comes at most four times a second, however small the steps', () => {
    const output = new Output(true);
    output.phase('checking');
    for (let n = 0; n < 1000; n++) {
      vi.advanceTimersByTime(10);
      output.progress(1, 0);
    }
    expect(lines().length).toBeLessThanOrEqual(41);
    expect(lines().length).toBeGreaterThan(30);
  });

  test('a sentence that is for people only is not said', () => {
    new Output(true).say('The proof could not be written down.');
    expect(said).toBe('');
  });

  test('a failure is an object with a code to act on', () => {
    new Output(true).fail(new Failure('archive-in-use'));
    expect(objects()).toEqual([
      {
        type: 'error',
        code: 'archive-in-use',
        what: expect.any(String) as string,
        safe: expect.any(String) as string,
        next: expect.any(String) as string,
      },
    ]);
    expect(complained).toBe('');
  });
});

test('progress that was not asked for is nothing', () => {
  new Output(true).progress(10, 1);
  expect(said).toBe('');
});
