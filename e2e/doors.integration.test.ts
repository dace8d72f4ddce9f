import { roles } from './doors/roles.js';
import { secrets } from './doors/secrets.js';
import { signingIn } from './doors/sign-in.js';
import { twoComputers } from './doors/network.js';
import { openShop } from './open-shop.js';
import { OWNED } from './product.js';

/** Who comes in, from where, and what they may do then: one shop for all. */
const shop = await openShop({ only: [OWNED] });
signingIn(shop);
twoComputers(shop);
roles(shop);
secrets(shop);
