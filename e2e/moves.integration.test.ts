import { farAway, openFarRacks } from './moves/far.js';
import { betweenFolders } from './moves/folders.js';
import { openShop } from './open-shop.js';
import { openOwned } from './product.js';

/** Archives that move, and what is cut off of that: one shop, onto racks of its own computer and onto others. */
const shop = await openShop();
await openOwned(shop.product);
betweenFolders(shop);
farAway(shop, await openFarRacks());
