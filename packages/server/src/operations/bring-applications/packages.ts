import { randomUUID } from 'node:crypto';
import { readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { mkdirInside, syncFolder } from '@bright-cellar/archive';
import type { PackageTold } from '@bright-cellar/contract';
import { Failure, rackIdSchema, type RackId } from '@bright-cellar/core';
import { agreedOf } from '../../agreements/index.js';
import type { Database } from '../../database/connect.js';
import { writeOpenFile } from '../../kernel/open-file.js';
import { noteOnly } from '../../kernel/unit-of-work.js';
import { EXTRACTS, folderOf, rackHere, racksNow, rackWithRoom } from '../../racks/index.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import { OPEN_FILE_NOT_AGREED } from '../extract/start.js';
import { OpenPackage } from './open-package.js';

const ENDING = '.application.zip';
/** More than these nobody reads through. */
const LISTED_MAX = 200;

/** Where a package of a ticket lies. @throws Failure `rack-not-here` */
export async function packagePath(
  db: Database,
  ticket: string,
  { rackId, name }: { rackId: RackId; name: string },
): Promise<string> {
  return join(folderOf(await rackHere(db, rackId)), EXTRACTS, ticket, name);
}

/** Packages that lie on racks for a ticket: taken out there, or given. */
export async function packagesOf({ db }: Context, number: string): Promise<PackageTold[]> {
  await agreedToLookInto(db, number);
  const told: PackageTold[] = [];
  for (const rack of await racksNow(db)) {
    if (!rack.present || rack.mounted === null) continue;
    const rackId = rackIdSchema.parse(rack.id);
    const folder = join(folderOf(await rackHere(db, rackId)), EXTRACTS, number);
    const names = await readdir(folder).catch(() => []);
    for (const name of names.filter((one) => one.endsWith(ENDING)).sort()) {
      if (told.length === LISTED_MAX) return told;
      told.push({
        ...{ rackId, rackName: rack.name, name },
        about: await about(join(folder, name)),
      });
    }
  }
  return told;
}

/** Null where it is no whole package. */
async function about(path: string): Promise<PackageTold['about']> {
  try {
    const opened = await OpenPackage.open(path);
    opened.close();
    const { id, name, applicationVersion, device, files } = opened.manifest;
    return { id, name, applicationVersion, device, files: files.length, bytes: opened.bytes };
  } catch (error) {
    if (error instanceof Failure) return null;
    throw error;
  }
}

/**
 * Takes a package that somebody gave onto a rack, beside those that were taken out for the ticket; it is there whole or not at all.
 * @throws Failure `package-damaged`, `rack-full`, `rack-not-here`, `not-agreed`
 */
export async function takePackage(
  context: Context,
  { number, rackId, bytes }: { number: string; rackId: RackId; bytes: number },
  contents: AsyncIterable<Uint8Array>,
): Promise<PackageTold> {
  const { db } = context;
  const ticketId = await agreedToLookInto(db, number);
  const rack = await rackWithRoom(db, rackId, bytes);
  const folder = join(folderOf(rack), EXTRACTS, number);
  await mkdirInside(folderOf(rack), folder);
  const given = join(folder, `${randomUUID()}.given`);
  try {
    await writeOpenFile(given, contents);
    const found = await about(given);
    if (!found) {
      throw new Failure('package-damaged', { what: 'That is no whole package of an application.' });
    }
    const name = await freeName(folder, found.id);
    await rename(given, join(folder, name));
    await syncFolder(folder);
    await noteOnly(context, {
      action: 'package-given',
      what: `A package of an application was put onto ${rack.name}.`,
      ticketId,
    });
    return { rackId, rackName: rack.name, name, about: found };
  } finally {
    await rm(given, { force: true });
  }
}

async function freeName(folder: string, id: string): Promise<string> {
  const there = new Set(await readdir(folder));
  for (let n = 1; ; n += 1) {
    const name = `${id}${n === 1 ? '' : `-${n}`}${ENDING}`;
    if (!there.has(name)) return name;
  }
}

/** @returns the ticket's id */
async function agreedToLookInto(db: Database, number: string): Promise<string> {
  const { ticket } = await ticketForWork(db, number);
  if (!(await agreedOf(db, ticket.id)).lookIn) {
    throw new Failure('not-agreed', { what: OPEN_FILE_NOT_AGREED });
  }
  return ticket.id;
}
