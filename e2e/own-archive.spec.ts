import { sharedProduct } from './counter.js';
import { lookedInto } from './own-archive/look-in.js';
import { takenAlong } from './own-archive/taken-along.js';
import { trouble } from './own-archive/trouble.js';

/** Each looks at an archive of its own: one shop for all. */
const shop = sharedProduct();
trouble(shop);
takenAlong(shop);
lookedInto(shop);
