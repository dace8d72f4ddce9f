import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { PathTable } from './path-table.js';

describe('the table of paths', () => {
  test('answers as a map does', () => {
    const steps = fc.array(fc.tuple(fc.string({ maxLength: 3 }), fc.nat()), { maxLength: 200 });
    fc.assert(
      fc.property(steps, fc.array(fc.string({ maxLength: 3 })), (all, others) => {
        const table = new PathTable();
        const model = new Map<string, number>();
        for (const [path, value] of all) {
          table.set(path, value);
          model.set(path, value);
        }
        for (const path of [...model.keys(), ...others])
          expect(table.get(path)).toBe(model.get(path));
      }),
    );
  });

  test('finds each of a few hundred thousand, places beyond 32 bits too', () => {
    const table = new PathTable();
    const count = 300_000;
    const pathOf = (n: number) => `photographs/2026/${n % 365}/image-${n}.jpg`;
    for (let n = 0; n < count; n++) table.set(pathOf(n), n * 2 ** 21 + 7);
    for (let n = 0; n < count; n++) {
      if (table.get(pathOf(n)) !== n * 2 ** 21 + 7) expect(table.get(pathOf(n)), `${n}`).toBe(0);
    }
    expect(table.get('photographs/other.jpg')).toBeUndefined();
  });
});
