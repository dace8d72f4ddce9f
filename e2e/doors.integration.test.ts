import { roles } from './doors/roles.js';
import { signingIn } from './doors/sign-in.js';
import { twoComputers } from './doors/network.js';
import { openShop } from './open-shop.js';

/** Who comes in, from where, and what they may do then: one shop for all, in which nobody has anything connected. */
const shop = await openShop({ only: [] });
signingIn(shop);
twoComputers(shop);
roles(shop);
