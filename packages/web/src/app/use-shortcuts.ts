import { rackNumberOf } from '@bright-cellar/core';
import { useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';
import { isTyping } from '../design/use-key.js';
import { entranceOf } from './place.js';
import { places } from './places.js';

/** Every shortcut there is, with the words of the list that `?` opens. */
export const shortcuts: readonly (readonly [keys: string, what: string])[] = [
  ['/ or Ctrl K', 'Find any ticket, archive, device or action'],
  ['Alt 1 … Alt 9', 'Open what is on that berth'],
  ...places.flatMap(({ key, command }): [string, string][] =>
    key && command ? [[`G then ${key.toUpperCase()}`, command]] : [],
  ),
  ['P, on the racks', 'Make the copies that are owed'],
  ['M, on the racks', 'Plan moves'],
  ['Scan a label', 'Open that ticket or rack, from anywhere'],
  ['Ctrl Shift L', 'Lock this screen'],
  ['F9', 'Close what you look into'],
  ['?', 'This list'],
];

/** A busy computer hands on what a scanner typed late; who types a number by hand means the same. */
const SCAN_PAUSE_MS = 600;

/** Listens for shortcuts and for a scanner, which types a label's digits quickly and then Enter. */
export function useShortcuts(on: { command: () => void; help: () => void }): void {
  const navigate = useNavigate();
  // Screens change at any moment, also in the middle of a scan: what is listened to begins once, and asks for the newest.
  const newest = useRef({ on, navigate });
  useEffect(() => {
    newest.current = { on, navigate };
  });
  useEffect(() => {
    let digits = '';
    let lastAt = 0;
    let afterG = false;
    const pressed = (event: KeyboardEvent) => {
      if (event.ctrlKey && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        newest.current.on.command();
        return;
      }
      if (event.altKey && /^Digit[1-9]$/.test(event.code)) {
        event.preventDefault();
        document.querySelector<HTMLElement>(`[data-berth="${event.code.slice(5)}"]`)?.click();
        return;
      }
      if (isTyping(event.target) || event.ctrlKey || event.altKey || event.metaKey) return;
      const now = event.timeStamp;
      if (/^\d$/.test(event.key)) {
        digits = now - lastAt < SCAN_PAUSE_MS ? digits + event.key : event.key;
        lastAt = now;
      } else if (event.key === 'Enter' && digits.length >= 5 && now - lastAt < SCAN_PAUSE_MS) {
        event.preventDefault();
        const isRack = rackNumberOf(digits) !== null;
        void newest.current.navigate(isRack ? `/racks/label/${digits}` : `/tickets/${digits}`);
        digits = '';
      } else if (event.key === '/') {
        event.preventDefault();
        newest.current.on.command();
      } else if (event.key === '?') {
        newest.current.on.help();
      } else if (afterG) {
        const place = places.find(({ key }) => key === event.key);
        if (place) void newest.current.navigate(entranceOf(place));
      }
      afterG = event.key === 'g';
    };
    window.addEventListener('keydown', pressed);
    return () => window.removeEventListener('keydown', pressed);
  }, []);
}
