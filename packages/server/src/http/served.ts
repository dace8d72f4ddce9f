import type { Express } from 'express';
import type { Config } from '../config.js';
import type { PasswordDesks } from '../services/password-desk.js';
import type { Planning } from '../services/planning.js';
import type { RegularWorks } from '../services/regular.js';
import type { Shop } from '../services/shop.js';
import type { Live } from './live.js';

/** What routes answer with. */
export interface Served {
  app: Express;
  shop: Shop;
  planning: Planning;
  regular: RegularWorks;
  desks: PasswordDesks;
  live: Live;
  config: Config;
}
