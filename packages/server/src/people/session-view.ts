import type { Session } from '@bright-cellar/contract';
import type { Config } from '../config.js';
import { readSettings } from '../settings/index.js';
import type { Shop } from '../shop.js';
import { allRoles } from './roles.js';
import type { Technician } from './technicians.js';

/** What a browser is told of who is signed in at it. */
export async function sessionView(
  { db }: Pick<Shop, 'db'>,
  { trayAddress }: Pick<Config, 'trayAddress'>,
  technician: Technician,
  csrfToken: string,
): Promise<Session> {
  const [{ shop }, roles] = await Promise.all([readSettings(db), allRoles(db)]);
  const role = roles.find(({ id }) => id === technician.role);
  return {
    ...{ technician: { ...technician, role: technician.role }, csrfToken },
    ...{ trayAddress, shopName: shop.name, may: [...(role?.permissions ?? [])] },
    roles: roles.map(({ id, name, permissions }) => ({
      ...{ id: id, name, permissions: [...permissions] },
    })),
  };
}
