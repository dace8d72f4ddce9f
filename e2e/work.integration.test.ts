import { Api } from './api.js';
import { openShop } from './open-shop.js';
import { JOSS, openOwned } from './product.js';
import { recovery } from './work/recovery.js';
import { work } from './work/work.js';

/** Backups, restores and erases that are cut off, killed and refused: one shop, in which each of two has ten tries a minute. */
const shop = await openShop();
await openOwned(shop.product);
recovery({ ...shop, api: await Api.signedIn(shop.product, JOSS) });
work(shop);
