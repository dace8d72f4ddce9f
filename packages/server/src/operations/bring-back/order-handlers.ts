import type { DeviceLink } from '@bright-cellar/device-link';
import { handled, type Handled } from '../../engine/orders.js';
import { amountHeld, holdFile, holdPicture, mapFile } from './held-files.js';
import { heldAmountOrder, holdFileOrder, holdPictureOrder, mapFileOrder } from './orders.js';

export const heldFileOrders = (link: DeviceLink): Handled[] => [
  handled(holdFileOrder, (asked) => holdFile(link, asked)),
  handled(heldAmountOrder, ({ id, technicianId }) => Promise.resolve(amountHeld(id, technicianId))),
  handled(holdPictureOrder, (asked) => Promise.resolve(holdPicture(asked))),
  handled(mapFileOrder, (asked) => Promise.resolve(mapFile(asked))),
];
