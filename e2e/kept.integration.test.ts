import { copies } from './kept/copies.js';
import { disposal } from './kept/disposal.js';
import { openShop } from './open-shop.js';
import { openOwned } from './product.js';

/** What is kept of it, and its end: one shop for both, and archives of their own. */
const shop = await openShop();
await openOwned(shop.product);
disposal(shop);
copies(shop);
