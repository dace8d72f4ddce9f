import { useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { useCallback, useEffect } from 'react';
import { call } from '../api/call.js';
import { lockShop, queries } from '../api/queries.js';

const LOOK_EVERY_MS = 5_000;
/** Whoever types for long without sending anything is there all the same. */
const TELL_EVERY_MS = 60_000;
/** Windows of one browser are one screen: what is done in one keeps all of them open. */
const LAST_ACT = 'last-act';
const acts = ['pointerdown', 'pointermove', 'keydown', 'wheel', 'touchstart'] as const;

const lastAct = () => Number(localStorage.getItem(LAST_ACT) ?? 0);

/** Locks this screen at once; what was typed stays. */
export function useLock(): () => Promise<void> {
  const client = useQueryClient();
  return useCallback(async () => {
    lockShop(client);
    await call(routes.lockSession).catch(() => undefined);
  }, [client]);
}

/** Locks the screen when nobody did anything for as long as the house says, and by its keys. */
export function useIdleLock(): void {
  const session = useQuery(queries.session()).data;
  const minutes = session?.lockMinutes ?? 0;
  const isLocked = session?.locked === true;
  const lock = useLock();
  useEffect(() => {
    if (isLocked) return;
    let toldAt = Date.now();
    localStorage.setItem(LAST_ACT, String(Date.now()));
    const acted = () => {
      const now = Date.now();
      if (now - lastAct() > 1000) localStorage.setItem(LAST_ACT, String(now));
    };
    const pressed = (event: KeyboardEvent) => {
      if (!event.ctrlKey || !event.shiftKey || event.key.toLowerCase() !== 'l') return;
      event.preventDefault();
      void lock();
    };
    const timer = setInterval(() => {
      const now = Date.now();
      const idleMs = now - lastAct();
      if (minutes > 0 && idleMs > minutes * 60_000) void lock();
      else if (idleMs < TELL_EVERY_MS && now - toldAt > TELL_EVERY_MS) {
        toldAt = now;
        void call(routes.session).catch(() => undefined);
      }
    }, LOOK_EVERY_MS);
    for (const act of acts) addEventListener(act, acted, { passive: true });
    addEventListener('keydown', pressed);
    return () => {
      clearInterval(timer);
      for (const act of acts) removeEventListener(act, acted);
      removeEventListener('keydown', pressed);
    };
  }, [minutes, isLocked, lock]);
}
