import { routes, type BodyInputOf, type Operation } from '@bright-cellar/contract';
import type { NewMigration } from '@bright-cellar/core';
import { call } from '../api/call.js';

/** Starts a backup; with a device to send it onto, that too. @returns the work that is shown first */
export function startBackup(
  number: string,
  body: BodyInputOf<typeof routes.startBackup>,
  onto: NewMigration['onto'] | null,
): Promise<Operation> {
  const params = { number };
  return onto === null
    ? call(routes.startBackup, { params, body })
    : call(routes.startMigration, { params, body: { ...body, onto } });
}
