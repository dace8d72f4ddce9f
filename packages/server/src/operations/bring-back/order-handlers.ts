import type { DeviceLink } from '@bright-cellar/device-link';
import { handled, type Handled } from '../../engine/orders.js';
import { heldAmountOrder, holdFileOrder, holdPictureOrder, mapFileOrder } from './orders.js';

/** Parsers of what customers bring along: loaded when the first file is brought. */
const held = () => import('./held-files.js');

export const heldFileOrders = (link: DeviceLink): Handled[] => [
  handled(holdFileOrder, async (asked) => (await held()).holdFile(link, asked)),
  handled(heldAmountOrder, async ({ id, technicianId }) =>
    (await held()).amountHeld(id, technicianId),
  ),
  handled(holdPictureOrder, async (asked) => (await held()).holdPicture(asked)),
  handled(mapFileOrder, async (asked) => (await held()).mapFile(asked)),
];
