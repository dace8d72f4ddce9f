import { handled, type Handled } from '../../engine/orders.js';
import { examplesOf } from './examples.js';
import { examplesOrder } from './orders.js';

export const crossingOrders = (): Handled[] => [
  handled(examplesOrder, ({ id }) => Promise.resolve(examplesOf(id))),
];
