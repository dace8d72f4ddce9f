export { judgeMoves } from './judge.js';
export type { Solve } from './model.js';
export {
  plannedMoveSchema,
  planMoves,
  type MovePlan,
  type NoPlan,
  type PlannedMove,
} from './plan.js';
export { rateFrom } from './rates.js';
export * from './stock.js';
export { pinSchema, wishSchema, type Pin, type Wish, type WishKind } from './wish.js';
