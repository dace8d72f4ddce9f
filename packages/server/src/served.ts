import type { Express } from 'express';
import type { Care } from './care/index.js';
import type { Config } from './config.js';
import type { Relay } from './kernel/relay.js';
import type { RegularWorks } from './regular/index.js';
import type { Saves } from './saves/index.js';
import type { Shop } from './shop.js';
import type { Answer, Live } from './http/index.js';

/** What routes answer with. */
export interface Served {
  app: Express;
  answer: Answer;
  shop: Shop;
  regular: RegularWorks;
  care: Care;
  saves: Saves;
  relay: Relay;
  live: Live;
  config: Config;
}
