// @ts-check
import { readFileSync } from 'node:fs';

/**
 * Preloaded into every process of a product under test: its clock is as many milliseconds off as a file says, which a test
 * may change at any moment, as a computer's clock jumps when it is set. Timers run on, as they do then.
 */
const file = process.env['FAULT_CLOCK_FILE'] ?? '';
const RealDate = Date;
const realNow = Date.now.bind(Date);
let off = 0;
let readAt = 0;

function offset() {
  if (realNow() - readAt > 20) {
    readAt = realNow();
    try {
      off = Number(readFileSync(file, 'utf8'));
    } catch {
      // Not set yet.
    }
  }
  return off;
}

globalThis.Date = new Proxy(RealDate, {
  construct: (target, given, newTarget) =>
    Reflect.construct(target, given.length === 0 ? [realNow() + offset()] : given, newTarget),
  apply: () => new RealDate(realNow() + offset()).toString(),
  get: (target, name) => (name === 'now' ? () => realNow() + offset() : Reflect.get(target, name)),
});
