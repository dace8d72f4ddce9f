import type { DeviceLink } from '@bright-cellar/device-link';
import { handled, type Handled } from '../engine/orders.js';
import { measure } from './measure.js';
import { measureOrder } from './orders.js';

/** What the work process reads of devices before anything is decided. */
export const planOrders = (link: DeviceLink): Handled[] => [
  handled(measureOrder, ({ device, entries }) => measure(link, device, entries)),
];
