// @ts-check
import { expect } from 'vitest';

const isBytes = (/** @type {unknown} */ value) => value instanceof Uint8Array;

/** Bytes compare as bytes: looked at as lists, index by index, a megabyte of them takes seconds. */
const alike = (/** @type {unknown} */ one, /** @type {unknown} */ other) =>
  isBytes(one) && isBytes(other)
    ? Buffer.compare(/** @type {Uint8Array} */ (one), /** @type {Uint8Array} */ (other)) === 0
    : undefined;

// Files share a process, and what one of them adds stays.
const added = Symbol.for('bright-cellar.bytes-alike');
if (!(added in globalThis)) {
  Reflect.set(globalThis, added, true);
  expect.addEqualityTesters([alike]);
}
