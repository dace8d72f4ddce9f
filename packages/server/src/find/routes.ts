import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { find } from './find.js';

export function findRoutes({ answer, shop }: Served): void {
  answer(routes.find, ({ query }) => find(shop, query.text));
}
