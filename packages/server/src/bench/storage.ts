import { readdir, realpath } from 'node:fs/promises';
import { isAbsolute, join } from 'node:path';
import type { BodyOf, routes, StoragePlace } from '@bright-cellar/contract';
import { Failure, serialRead, type DeviceFacts, type LinkDeviceId } from '@bright-cellar/core';
import { LinkError } from '@bright-cellar/device-link';
import { noteOnly } from '../kernel/unit-of-work.js';
import { isWithin, mountedDrives, racksAround, shownPlace } from '../racks/index.js';
import type { Context } from '../shop.js';
import { mustBeFree } from './ready.js';

/** More than so many are not looked through in a list. */
const FOLDERS_MOST = 500;

/** Where such storage may lie. */
export interface StorageBounds {
  /** Folders in which it appears when it is mounted. */
  places: readonly string[];
  /** The installation's own folder: nothing of it is given out. */
  never: string;
}

/** Storage that is mounted and is no rack. */
export async function storagePlaces({ places }: StorageBounds): Promise<StoragePlace[]> {
  const found = await mountedDrives(places);
  const shown = await Promise.all(found.filter(({ rack }) => rack === null).map(shownPlace));
  return shown.filter((place) => place !== null);
}

/** The folders in a folder of such storage, by name. @throws Failure `input-not-valid` */
export async function storageFolders(
  bounds: StorageBounds,
  wanted: string,
): Promise<{ folders: string[] }> {
  const folder = await placed(bounds, wanted);
  const inside = await readdir(folder, { withFileTypes: true }).catch((cause: unknown) => {
    throw new Failure('input-not-valid', refused('That folder cannot be read.'), { cause });
  });
  const folders = inside.filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'));
  return {
    folders: folders
      .map(({ name }) => name)
      .sort()
      .slice(0, FOLDERS_MOST),
  };
}

/**
 * Puts it on the bench as a device.
 * @throws Failure `input-not-valid` where it lies elsewhere, is a rack or lies on one; `already-exists`
 */
export async function connectStorage(
  context: Context,
  bounds: StorageBounds,
  wanted: BodyOf<typeof routes.connectStorage>,
): Promise<{ deviceId: LinkDeviceId; berth: number }> {
  const folder = await placed(bounds, wanted.folder);
  const [rack] = await racksAround(context.db, folder);
  if (rack) throw new Failure('input-not-valid', refused(`That is on the rack ${rack}.`));
  const other = wanted.serial === null ? null : context.bench.bySerial(wanted.serial);
  if (other) {
    throw new Failure('already-exists', {
      what: `A device with that serial is on berth ${other.berth}.`,
      next: 'Check the serial; or take the other one off first.',
    });
  }
  const facts = await context.bench.link
    .connectStorage({ ...wanted, folder })
    .catch((cause: unknown) => {
      throw refusal(cause);
    });
  await noteOnly(context, {
    action: 'storage-connected',
    what: `Mounted storage was put on berth ${facts.berth}: ${deviceWords(facts)}.`,
  });
  return { deviceId: facts.id, berth: facts.berth };
}

/** @throws Failure `device-busy`, `device-not-here`, `device-refused` of one that hangs on a cable */
export async function letStorageGo(context: Context, deviceId: LinkDeviceId): Promise<void> {
  const facts = await context.bench.freshFacts(deviceId);
  await mustBeFree(context.db, facts.serial);
  await context.bench.link.letStorageGo(deviceId).catch((cause: unknown) => {
    if (cause instanceof LinkError && cause.code === 'not-capable') {
      const what = 'That device hangs on a cable.';
      throw new Failure('device-refused', { what, next: 'Pull its cable.' }, { cause });
    }
    throw refusal(cause);
  });
  await noteOnly(context, {
    action: 'storage-let-go',
    what: `Mounted storage was taken off berth ${facts.berth}: ${deviceWords(facts)}.`,
  });
}

const deviceWords = ({ familyName, model, serial }: DeviceFacts) =>
  [familyName, model, serialRead(serial) ?? 'no serial read'].filter(Boolean).join(', ');

function refusal(cause: unknown): Failure {
  const code = cause instanceof LinkError ? cause.code : 'no-answer';
  if (code === 'busy') {
    const what = 'It is on the bench already, or no berth is free.';
    return new Failure('device-busy', { what, next: 'Take off what is not needed.' }, { cause });
  }
  if (code === 'not-valid') {
    return new Failure('input-not-valid', refused('No such folder is there now.'), { cause });
  }
  if (code === 'not-capable') {
    const what = 'The bench takes no mounted storage.';
    return new Failure(
      'device-refused',
      { what, next: 'Connect the device by a cable.' },
      { cause },
    );
  }
  return new Failure('link-down', {}, { cause });
}

const refused = (what: string) => ({
  what,
  safe: 'Nothing was read there, and nothing written.',
  next: 'Choose a folder on storage that is mounted on this computer and is no rack.',
});

/** The drives of the demo lie in the installation's folder, and are nothing of its own. */
const isOwn = (folder: string, own: string) =>
  isWithin(own, folder) || (isWithin(folder, own) && !isWithin(folder, join(own, 'drives')));

/** A folder below a place in which storage appears, as it really lies there. @throws Failure `input-not-valid` */
async function placed({ places, never }: StorageBounds, wanted: string): Promise<string> {
  const folder = isAbsolute(wanted) ? await realpath(wanted).catch(() => null) : null;
  if (folder !== null && !isOwn(folder, never)) {
    for (const place of places) {
      const real = await realpath(place.replace(/\/\*$/, '')).catch(() => null);
      if (real !== null && real !== folder && isWithin(folder, real)) return folder;
    }
  }
  throw new Failure('input-not-valid', refused('That lies in no place where storage appears.'));
}
