import loadHighs from 'highs';
import wasm from 'highs/runtime?url';
import {
  planMoves,
  type MovePlan,
  type NoPlan,
  type Pin,
  type Stock,
  type Wish,
} from '@bright-cellar/core/placement';
import { solverOf } from './solve.js';

/** What is to be planned. */
export interface PlanAsk {
  turn: number;
  stock: Stock;
  wish: Wish;
  pins: readonly Pin[];
}
export interface PlanAnswer {
  turn: number;
  found: MovePlan | NoPlan;
}

let solver: Promise<ReturnType<typeof solverOf> | null> | null = null;
/** Without one, what is found without it has to do. */
const solverNow = () =>
  (solver ??= loadHighs({ locateFile: () => wasm })
    .then(solverOf)
    .catch(() => null));

self.onmessage = async ({ data: { turn, stock, wish, pins } }: MessageEvent<PlanAsk>) => {
  const answer: PlanAnswer = { turn, found: planMoves(stock, wish, pins, await solverNow()) };
  self.postMessage(answer);
};
