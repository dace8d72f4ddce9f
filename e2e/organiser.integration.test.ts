import { openOrganiserShop } from './organiser-sides.js';
import { books } from './organiser/books.js';
import { nearby } from './organiser/nearby.js';
import { MARL, OWNED, QUILLON } from './product.js';

/** A handset kept in step with its customer's own server, then a phone with that handset: one shop. */
const shop = await openOrganiserShop(QUILLON, MARL, OWNED);
books(shop);
nearby(shop);
