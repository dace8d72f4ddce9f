import type { Session } from '@bright-cellar/contract';
import type { Config } from '../config.js';
import { readSettings } from '../settings/index.js';
import type { Shop } from '../shop.js';
import type { Technician } from './technicians.js';

/** What a browser is told of who is signed in at it. */
export async function sessionView(
  { db }: Pick<Shop, 'db'>,
  { trayAddress }: Pick<Config, 'trayAddress'>,
  technician: Technician,
  csrfToken: string,
): Promise<Session> {
  const { shop } = await readSettings(db);
  return { technician, csrfToken, trayAddress, shopName: shop.name };
}
