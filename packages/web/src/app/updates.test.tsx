import { beforeEach, expect, test, vi } from 'vitest';
import { loadAgainAfterUpdates } from './updates.js';

/** A window of its own: the tests' one must not be loaded again. */
function aWindow() {
  const events = new EventTarget();
  const kept = new Map<string, string>();
  const reload = vi.fn();
  const target = {
    addEventListener: events.addEventListener.bind(events),
    sessionStorage: {
      getItem: (name: string) => kept.get(name) ?? null,
      setItem: (name: string, value: string) => void kept.set(name, value),
    },
    location: { reload },
  } as unknown as Window;
  const miss = () => {
    const event = new Event('vite:preloadError', { cancelable: true });
    events.dispatchEvent(event);
    return event.defaultPrevented;
  };
  return { target, reload, miss };
}

beforeEach(() => {
  vi.useFakeTimers({ now: 1_000_000_000_000 });
  return () => vi.useRealTimers();
});

test('a part that is gone after an update loads the page again, once', () => {
  const { target, reload, miss } = aWindow();
  loadAgainAfterUpdates(target);
  expect(miss()).toBe(true);
  expect(reload).toHaveBeenCalledTimes(1);
  vi.advanceTimersByTime(59_000);
  // Then it is said on the screen instead.
  expect(miss()).toBe(false);
  expect(reload).toHaveBeenCalledTimes(1);
  vi.advanceTimersByTime(2_000);
  expect(miss()).toBe(true);
  expect(reload).toHaveBeenCalledTimes(2);
});
