import { cleanup, configure } from '@testing-library/react';
import { afterEach, expect, vi } from 'vitest';
import { contractBreaks } from './fake-server.js';

// A machine that stands still for a while is not the screen’s fault.
configure({ asyncUtilTimeout: 20_000 });

// What the choices of Radix ask of a browser and this stand-in for one does not have.
Element.prototype.hasPointerCapture = () => false;
Element.prototype.scrollIntoView = () => undefined;

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  expect(contractBreaks.splice(0)).toEqual([]);
});
