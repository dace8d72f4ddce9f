import { Api } from './api.js';
import { lostCatalogue } from './lost/catalogue.js';
import { lostComputer } from './lost/computer.js';
import { lostPassword } from './lost/password.js';
import { openShop } from './open-shop.js';
import { JOSS, openOwned } from './product.js';

/** What was lost: rows of the catalogue, a password, the whole computer. One shop; each of two who work there has ten tries. */
const shop = await openShop();
await openOwned(shop.product);
lostCatalogue({ ...shop, api: await Api.signedIn(shop.product, JOSS) });
lostPassword(shop);
lostComputer(shop);
