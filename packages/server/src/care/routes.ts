import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';

/** What is owed to what is kept. */
export function careRoutes({ answer, care }: Served): void {
  answer(routes.care, () => care.view());
  answer(routes.payOwed, () => care.pay());
}
