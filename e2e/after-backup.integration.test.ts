import { Api } from './api.js';
import { archives } from './after-backup/archive.js';
import { day } from './after-backup/day.js';
import { record } from './after-backup/record.js';
import { takeOuts } from './after-backup/take-out.js';
import { openShop } from './open-shop.js';
import { JOSS, openOwned } from './product.js';

/**
 * What comes after a backup: one shop, and a proven backup of its own for each. The first knows no other customer; who works on
 * archives tries more wrong passwords than go beside those of others.
 */
const shop = await openShop();
await openOwned(shop.product);
day(shop);
archives({ ...shop, api: await Api.signedIn(shop.product, JOSS) });
takeOuts(shop);
record(shop);
