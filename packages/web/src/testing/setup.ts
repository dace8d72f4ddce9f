import { cleanup, configure } from '@testing-library/react';
import React from 'react';
import { afterEach, expect, vi } from 'vitest';
import { contractBreaks } from './fake-server.js';

// A machine that stands still for a while is not the screen’s fault.
configure({ asyncUtilTimeout: 20_000 });

// Each element remembers the stack of whoever made it, for messages that a test fails by anyway: a sixth of the time that screens
// take. React stops by itself once there are many; that there are is all that is said here.
const { __CLIENT_INTERNALS_DO_NOT_USE_OR_WARN_USERS_THEY_CANNOT_UPGRADE: internals } =
  React as unknown as Record<string, object>;
Object.defineProperty(internals, 'recentlyCreatedOwnerStacks', {
  get: () => Number.MAX_SAFE_INTEGER,
  set: () => undefined,
});

// There is no other thread: what is measured beside the page is measured here, a moment later.
vi.mock(import('../password/measuring.js'), () => ({
  startMeasuring: (onMeasured) => ({
    measure: (password) =>
      void import('../password/strength.js').then(({ strengthOf }) =>
        onMeasured(strengthOf(password)),
      ),
    end: () => undefined,
  }),
}));

// What the choices of Radix ask of a browser and this stand-in for one does not have.
Element.prototype.hasPointerCapture = () => false;
Element.prototype.scrollIntoView = () => undefined;

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  expect(contractBreaks.splice(0)).toEqual([]);
});
