import { useEffect, useRef } from 'react';

/** Whether what is pressed goes into a field. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}

/** One key of a page’s own, while nobody types and nothing lies over it. */
export function useKey(key: string, act: () => unknown): void {
  const newest = useRef(act);
  useEffect(() => {
    newest.current = act;
  });
  useEffect(() => {
    let afterG = false;
    const pressed = (event: KeyboardEvent) => {
      const isPlain = !event.ctrlKey && !event.altKey && !event.metaKey;
      const isCovered = document.querySelector('[role="dialog"]') !== null;
      if (event.key === key && isPlain && !afterG && !isTyping(event.target) && !isCovered)
        newest.current();
      afterG = event.key === 'g';
    };
    window.addEventListener('keydown', pressed);
    return () => window.removeEventListener('keydown', pressed);
  }, [key]);
}
