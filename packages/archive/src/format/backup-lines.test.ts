import { randomBytes, randomUUID } from 'node:crypto';
import { dataClassIds, Failure } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  decodeLines,
  encodeLine,
  type BackupLine,
  type ItemLine,
  type PartLine,
} from './backup-lines.js';
import { ItemAssembler } from './item-assembler.js';
import { FRAME_MAX_PLAIN } from './sealed.js';

const ids = (count: number) => randomBytes(32 * count).toString('hex');

function item(change: Partial<ItemLine> = {}): ItemLine {
  return {
    type: 'item',
    class: 'videos',
    kind: 'file',
    path: 'videos/long.mp4',
    bytes: 30,
    modified: '2026-01-02T03:04:05.678901234Z',
    mode: 0o644,
    mark: 'as it was',
    from: 0,
    chunks: ids(1),
    ...change,
  };
}

function part(from: number, to: number, change: Partial<PartLine> = {}): PartLine {
  return {
    type: 'part',
    path: 'videos/long.mp4',
    mark: 'as it was',
    from,
    to,
    chunks: ids(2),
    ...change,
  };
}

const anyPath = fc
  .array(fc.string({ minLength: 1, unit: 'grapheme' }), { minLength: 1, maxLength: 6 })
  .map((parts) => parts.join('/'));
const anyItem = fc
  .record({
    class: fc.constantFrom(...dataClassIds),
    path: anyPath,
    bytes: fc.nat(),
    mode: fc.option(fc.integer({ min: 0, max: 0o7777 })),
    mark: fc.string({ maxLength: 40 }),
    format: fc.constantFrom('text/vcard', null),
    count: fc.nat(5),
  })
  .map(({ count, format, ...facts }) =>
    item({ ...facts, ...(format && { format }), chunks: ids(count) }),
  );

describe('lines of a list', () => {
  test('come back as they were, whatever the names in them', () => {
    fc.assert(
      fc.property(fc.array(anyItem, { minLength: 1, maxLength: 20 }), (lines) => {
        const frame = Buffer.concat(lines.map(encodeLine));
        expect([...decodeLines(frame)]).toEqual(lines);
      }),
    );
  });

  test('that no frame could hold are refused when they are written', () => {
    expect(() => encodeLine(item({ path: 'x'.repeat(FRAME_MAX_PLAIN) }))).toThrow(Failure);
  });

  test.each<[string, unknown]>([
    ['no object', 7],
    ['of an unknown type', { ...item(), type: 'thing' }],
    ['without a path', { ...item(), path: '' }],
    ['of an unknown class', { ...item(), class: 'secrets' }],
    ['with a negative size', { ...item(), bytes: -1 }],
    ['with half a size', { ...item(), bytes: 1.5 }],
    ['with half a chunk id', { ...item(), chunks: ids(1).slice(1) }],
    ['with a chunk id in capitals', { ...item(), chunks: 'AB'.repeat(32) }],
    ['with a time that is none', { ...item(), modified: 'yesterday' }],
    ['with bits that are no mode', { ...item(), mode: 0o10000 }],
    [
      'a failure without a known reason',
      { type: 'failed', class: 'videos', path: 'a', reason: 'tired' },
    ],
    ['an end without its counts', { type: 'end', items: 1 }],
  ])('%s: refused', (_what, line) => {
    expect(() => [...decodeLines(Buffer.from(`${JSON.stringify(line)}\n`))]).toThrow(Failure);
  });

  test('that are torn or are no JSON are refused', () => {
    const whole = encodeLine(item());
    for (const bytes of [
      whole.subarray(0, -1),
      Buffer.from('{"type":\n'),
      Buffer.from('\n'),
      Buffer.alloc(0),
    ]) {
      expect(() => [...decodeLines(bytes)]).toThrow(Failure);
    }
  });

  test('an id is not confused with another version of a backup', () => {
    const header: BackupLine = {
      type: 'backup',
      format: 1,
      archive: randomUUID(),
      backup: randomUUID(),
      takenAt: '2026-01-02T03:04:05.000Z',
      label: '',
      ticket: '',
      device: null,
    };
    expect([...decodeLines(encodeLine(header))]).toEqual([header]);
    const later = Buffer.from(`${JSON.stringify({ ...header, format: 2 })}\n`);
    expect(() => [...decodeLines(later)]).toThrow(Failure);
  });
});

describe('a long item', () => {
  test('is put together from its parts, in order', () => {
    const lines = [part(0, 10), part(10, 20), item({ from: 20, bytes: 30 })];
    const assembler = new ItemAssembler();
    const results = lines.map((line) => assembler.take(line));
    expect(results.slice(0, 2)).toEqual([null, null]);
    expect(results[2]?.chunks.toString('hex')).toBe(lines.map(({ chunks }) => chunks).join(''));
    expect(results[2]).toMatchObject({ path: 'videos/long.mp4', bytes: 30 });
    expect(assembler.beginning).toEqual([]);
  });

  test('that was begun and given up leaves nothing in the next one', () => {
    const assembler = new ItemAssembler();
    assembler.take(part(0, 10));
    const short = assembler.take(item({ path: 'notes/short.txt', bytes: 5 }));
    expect(short?.chunks).toHaveLength(32);
    const again = [part(0, 8), item({ from: 8 })].map((line) => assembler.take(line)).at(-1);
    expect(again?.chunks).toHaveLength(3 * 32);
  });

  test.each<[string, (PartLine | ItemLine)[]]>([
    ['of another item', [part(0, 10), part(10, 20, { path: 'videos/other.mp4' })]],
    ['of another state of it', [part(0, 10), part(10, 20, { mark: 'changed' })]],
    ['with a gap before it', [part(0, 10), part(11, 20)]],
    ['that repeats what was there', [part(0, 10), part(5, 20)]],
    ['without its beginning', [part(10, 20)]],
    ['whose end is another item’s', [part(0, 10), item({ from: 10, path: 'videos/other.mp4' })]],
    ['whose end has no beginning', [item({ from: 10 })]],
  ])('a part %s is refused', (_what, lines) => {
    const assembler = new ItemAssembler();
    expect(() => {
      for (const line of lines) assembler.take(line);
    }).toThrow(Failure);
  });
});
