// @ts-check
import crypto from 'node:crypto';
import { syncBuiltinESMExports } from 'node:module';

/**
 * Preloaded into every process of a product under test, and into the test: a password's key takes a hundredth of the work
 * that it is made to take. A walk derives a thousand of them. Whatever is written so opens only where this is loaded.
 */
const real = crypto.scrypt;

/** @type {(password: any, salt: any, length: number, options: any, done: any) => void} */
const light = (password, salt, length, options, done) =>
  real(password, salt, length, { ...options, N: 2 ** 10 }, done);

Object.assign(crypto, { scrypt: light });
syncBuiltinESMExports();
