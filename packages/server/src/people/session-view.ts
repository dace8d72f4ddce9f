import type { Session } from '@bright-cellar/contract';
import type { Config } from '../config.js';
import type { Database } from '../database/connect.js';
import type { SignedIn } from '../http/index.js';
import { readSettings } from '../settings/index.js';
import { allRoles } from './roles.js';
import { hasSecondFactor } from './second-factor.js';
import { needsSecondFactor } from '@bright-cellar/core';
import type { Technician } from './technicians.js';

/** What a browser is told of who is signed in at it. */
export async function sessionView(
  { db }: { db: Database },
  { trayAddress }: Pick<Config, 'trayAddress'>,
  technician: Technician,
  { csrfToken, isLocked = false }: Pick<SignedIn, 'csrfToken'> & { isLocked?: boolean },
): Promise<Session> {
  const [{ shop, signIn }, roles, hasFactor] = await Promise.all([
    readSettings(db),
    allRoles(db),
    hasSecondFactor(db, technician.id),
  ]);
  const role = roles.find(({ id }) => id === technician.role);
  return {
    ...{ technician, csrfToken, trayAddress, shopName: shop.name },
    may: [...(role?.permissions ?? [])],
    locked: isLocked,
    lockMinutes: Number(signIn.lockMinutes),
    mustEnrol: !hasFactor && needsSecondFactor(signIn, technician.role),
    roles: roles.map(({ id, name, permissions }) => ({ id, name, permissions: [...permissions] })),
  };
}
