import type { DeviceLink } from '@bright-cellar/device-link';
import { handled, type Handled } from '../../engine/orders.js';
import { amountHeld, holdFile, mapFile } from './held-files.js';
import { heldAmountOrder, holdFileOrder, mapFileOrder } from './orders.js';

export const heldFileOrders = (link: DeviceLink): Handled[] => [
  handled(holdFileOrder, (asked) => holdFile(link, asked)),
  handled(heldAmountOrder, ({ id, technicianId }) => Promise.resolve(amountHeld(id, technicianId))),
  handled(mapFileOrder, (asked) => Promise.resolve(mapFile(asked))),
];
