import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { HeldPassword, whileHeld } from './held-password.js';
import { ArmedPasswords } from '../regular/armed-passwords.js';

const PASSWORD = 'ferry lantern quince mole';
const isZeros = (held: HeldPassword) => [...held.bytes].every((byte) => byte === 0);

test('a password that is held is bytes of its own, and zeros once it is forgotten', () => {
  const held = new HeldPassword('ferry lantern quince mole');
  expect(held.use()).toBe('ferry lantern quince mole');
  expect(held.bytes.buffer.byteLength).toBe(held.bytes.length);
  held.forget();
  expect([...held.bytes].every((byte) => byte === 0)).toBe(true);
});

describe('what work is started with', () => {
  test('is there while it runs, and zeros after', async () => {
    const seen: HeldPassword[] = [];
    const result = await whileHeld({ password: PASSWORD, packagePassword: '' }, async (held) => {
      seen.push(held.password, held.packagePassword);
      return held.password.use();
    });
    expect(result).toBe(PASSWORD);
    expect(seen).toHaveLength(2);
    expect(seen.every(isZeros)).toBe(true);
  });

  test('is zeros as well when the work fails', async () => {
    const seen: HeldPassword[] = [];
    const failing = whileHeld({ password: PASSWORD }, async ({ password }) => {
      seen.push(password);
      throw new Error('the cable');
    });
    await expect(failing).rejects.toThrow('the cable');
    expect(seen.every(isZeros)).toBe(true);
  });
});

describe('what a regular backup is armed with', () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
  });
  const armed = () => {
    const passwords = new ArmedPasswords();
    passwords.arm('a schedule', PASSWORD, 'wren');
    const { password, by } = passwords.get('a schedule', new Date()) ?? {};
    if (!password) throw new Error('nothing armed');
    expect([password.use(), by]).toEqual([PASSWORD, 'wren']);
    return { passwords, password };
  };

  test('is overwritten after fifteen days, though nobody asks for it', () => {
    const { passwords, password } = armed();
    vi.advanceTimersByTime(15 * 86_400_000 - 60_000);
    expect(passwords.get('a schedule', new Date())?.password.use()).toBe(PASSWORD);
    vi.advanceTimersByTime(120_000);
    expect(isZeros(password)).toBe(true);
    expect(passwords.get('a schedule', new Date())).toBeNull();
  });

  test('is overwritten when the schedule ends, and when another is typed', () => {
    const { passwords, password } = armed();
    passwords.arm('a schedule', 'another four words', 'finch');
    expect(isZeros(password)).toBe(true);
    const other = passwords.get('a schedule', new Date())?.password;
    expect(other?.use()).toBe('another four words');
    passwords.forget('a schedule');
    expect(other && isZeros(other)).toBe(true);
  });
});
