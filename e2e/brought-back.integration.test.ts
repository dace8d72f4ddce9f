import { applications } from './brought-back/applications.js';
import { HANDSET, OTHER } from './brought-back/devices.js';
import { messages } from './brought-back/messages.js';
import { openShop } from './open-shop.js';
import { MARL, openMarl, WIPED } from './product.js';

/** What comes back onto the device that it is of, and onto another: one shop for both, a ticket for each. */
const shop = await openShop({ only: [MARL, OTHER, WIPED, HANDSET] });
await openMarl(shop.product);
applications(shop);
messages(shop);
