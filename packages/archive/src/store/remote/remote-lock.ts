import { createHmac, randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:net';
import { hostname } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { z } from 'zod';
import { cannotWrite, codeOf, orNull } from '../../disk/errors.js';
import { jsonOrNull } from '../../tools/json.js';
import { inUse, Leases, type Hold } from '../leases.js';
import { readWhole } from '../read.js';
import type { Lease, LeaseKind } from '../store.js';
import type { Medium } from './medium.js';

const BEAT_MS = 20_000;
/** A process on another computer that has not been heard of for this long is gone. */
const SILENT_MS = 6 * BEAT_MS;
/** Two that saw the same one gone: the later of them has it. */
const SETTLE_MS = 1_000;
const NOTE_BYTES = 4096;

const noteSchema = z.object({ host: z.string(), token: z.string() });

const leases = new Leases();

interface Place {
  medium: Medium;
  key: string;
  archive: string;
}

/**
 * One process at a time works on an archive of a rack that is reached over a network. On this computer a socket in Linux's
 * abstract namespace says so, named by a secret; for other computers there is a file on the rack that is written again and
 * again while the work goes on. How old that is, the rack's own clock says.
 * @param complete carries out what was decided, before anybody has it who changes something
 * @throws Failure `archive-in-use` at once
 */
export function lockRemote(
  place: Place,
  kind: LeaseKind,
  complete: () => Promise<void>,
): Promise<Lease> {
  const take = async () => {
    const lock = await lockAlone(place);
    try {
      await complete();
      return lock;
    } catch (error) {
      await lock.release();
      throw error;
    }
  };
  return leases.lease(`${place.key} ${place.archive}`, kind, take, async () => {
    if (kind !== 'shared') await complete();
  });
}

async function lockAlone(place: Place): Promise<Hold> {
  const socket = await claimSocket(place);
  let file: Hold | null;
  try {
    file = await claimFile(place);
  } catch (error) {
    socket.close();
    throw error;
  }
  return {
    async release() {
      // A rack that is not reached any more keeps it: it names this computer, and is given up with its socket.
      await file?.release().catch(() => undefined);
      await new Promise<void>((done) => socket.close(() => done()));
    },
  };
}

function claimSocket({ key, archive }: Place): Promise<Server> {
  const name = createHmac('sha256', key).update(archive).digest('hex');
  const server = createServer((connection) => connection.destroy());
  return new Promise((resolve, reject) => {
    server.once('error', (error) => reject(inUse(error)));
    server.listen(`\0bright-cellar-${name}`, () => {
      server.unref();
      resolve(server);
    });
  });
}

/** Null where nothing can be written: what nobody can change needs no such file. */
async function claimFile({ medium, archive }: Place): Promise<Hold | null> {
  const name = `.in-use-${archive}`;
  const note = JSON.stringify({ host: hostname(), token: randomUUID() });
  try {
    await medium.put(name, note, 'if-absent');
  } catch (error) {
    if (cannotWrite.includes(codeOf(error))) return null;
    if (codeOf(error) !== 'EEXIST') throw error;
    await takeOver(medium, name, note, error);
  }
  const beat = setInterval(() => {
    medium.put(name, note, 'over').catch(() => undefined);
  }, BEAT_MS);
  beat.unref();
  return {
    async release() {
      clearInterval(beat);
      await medium.remove(name);
    },
  };
}

/** Takes the place of one that is gone. @throws Failure `archive-in-use` */
async function takeOver(medium: Medium, name: string, note: string, cause: unknown): Promise<void> {
  const seen = await noteIn(medium, name);
  // This computer's socket was free: its file was left behind.
  if (seen?.host !== hostname()) {
    if ((await silentFor(medium, name)) < SILENT_MS) throw inUse(cause);
    await medium.put(name, note, 'over');
    await sleep(SETTLE_MS);
    const { token } = noteSchema.parse(JSON.parse(note));
    if ((await noteIn(medium, name))?.token !== token) throw inUse(cause);
    return;
  }
  await medium.put(name, note, 'over');
}

/** How long ago a file was written, in ms. What time it is there, a file says that is written now. */
async function silentFor(medium: Medium, name: string): Promise<number> {
  const probe = `.now-${randomUUID()}`;
  try {
    await medium.put(probe, '', 'over');
    const [now, then] = await Promise.all([probe, name].map((each) => medium.writtenAt(each)));
    return (now ?? 0) - (then ?? 0);
  } finally {
    await medium.remove(probe);
  }
}

async function noteIn(medium: Medium, name: string) {
  const text = await orNull(readWhole(medium, name, NOTE_BYTES));
  return noteSchema.safeParse(jsonOrNull(String(text))).data ?? null;
}
