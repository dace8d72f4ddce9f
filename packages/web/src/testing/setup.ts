import { cleanup } from '@testing-library/react';
import { afterEach, vi } from 'vitest';

// What the choices of Radix ask of a browser and this stand-in for one does not have.
Element.prototype.hasPointerCapture = () => false;
Element.prototype.scrollIntoView = () => undefined;

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});
