import { diskFailure, forgetStore, openStore, tryStore } from '@bright-cellar/archive';
import { handled, type Handled } from '../engine/orders.js';
import { tryRackOrder } from './orders.js';

/** What the work process does with racks on the server's word. */
export function rackOrders(): Handled[] {
  return [
    handled(tryRackOrder, ({ address }) =>
      tryStore(openStore(address))
        .catch((error: unknown) => {
          throw diskFailure(error);
        })
        .finally(() => forgetStore(address)),
    ),
  ];
}
