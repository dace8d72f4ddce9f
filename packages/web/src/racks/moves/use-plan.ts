import type { MovePlan, NoPlan, Pin, Stock, Wish } from '@bright-cellar/core/placement';
import { useEffect, useRef, useState } from 'react';
import type { PlanAnswer, PlanAsk } from './plan.worker.js';

/**
 * The plan for a wish, made beside the page so that nothing stutters; null while it is made, or where nothing is wished.
 * The last one that was asked for is the one that is shown.
 */
export function usePlan(
  stock: Stock | undefined,
  wish: Wish | null,
  pins: readonly Pin[],
): MovePlan | NoPlan | null {
  const [answer, setAnswer] = useState<PlanAnswer | null>(null);
  const worker = useRef<Worker | null>(null);
  const turn = useRef(0);
  useEffect(() => {
    const made = new Worker(new URL('./plan.worker.ts', import.meta.url), { type: 'module' });
    made.onmessage = ({ data }: MessageEvent<PlanAnswer>) => setAnswer(data);
    worker.current = made;
    return () => {
      made.terminate();
      worker.current = null;
    };
  }, []);
  const asked = wish === null ? '' : JSON.stringify([wish, pins]);
  const [shownFor, setShownFor] = useState(0);
  useEffect(() => {
    turn.current += 1;
    setShownFor(turn.current);
    if (!stock || asked === '') return;
    const [of, by] = JSON.parse(asked) as [Wish, Pin[]];
    const ask: PlanAsk = { turn: turn.current, stock, wish: of, pins: by };
    worker.current?.postMessage(ask);
  }, [stock, asked]);
  return answer?.turn === shownFor ? answer.found : null;
}
