import type { ItemRecord, OpenArchive } from '@bright-cellar/archive';
import type { Comparison, LookDifference } from '@bright-cellar/contract';
import {
  dataClassIds,
  Failure,
  readableName,
  type Change,
  type DataClass,
  type LinkDeviceId,
} from '@bright-cellar/core';
import {
  allThere,
  compareSides,
  countChanges,
  type Difference,
  type Side,
} from '@bright-cellar/core/look';
import type { DeviceLink } from '@bright-cellar/device-link';

const ROWS_AT_ONCE = 200;
/** So many items of a backup are compared by their bytes with one of a device. */
const LIKELY_MOST = 4;

/** A backup that is compared, item by item. */
interface Compared {
  archive: OpenArchive;
  backupId: string;
}

/** Compares an open backup with something else, while somebody waits for it: how far that is, and what came out. */
export class Comparing {
  #looked = 0;
  #trouble: string | null = null;
  #differences: Difference[] | null = null;
  readonly #where: string;
  /** Ends when all was compared, or it is over. */
  readonly ended: Promise<void>;

  private constructor(where: string, work: (looked: () => void) => Promise<Difference[]>) {
    this.#where = where;
    this.ended = work(() => (this.#looked += 1)).then(
      (differences) => {
        this.#differences = differences;
      },
      (error: unknown) => {
        this.#trouble =
          error instanceof Failure
            ? error.problem.what
            : 'Not all of it could be read: the comparison ended early.';
      },
    );
  }

  /** With another backup of the same archive. @param isLater the other is the later one */
  static withBackup(
    { archive, backupId }: Compared,
    otherId: string,
    isLater: boolean,
    signal: AbortSignal,
  ): Comparing {
    return new Comparing(isLater ? 'in the later backup' : 'in this backup', async (looked) => {
      const [own, others]: [Side[], Side[]] = [[], []];
      for await (const item of filesOf(archive, backupId, signal)) own.push(sideOf(item));
      for await (const item of filesOf(archive, otherId, signal)) {
        looked();
        others.push(sideOf(item));
      }
      return isLater ? compareSides(own, others) : compareSides(others, own);
    });
  }

  /** With what has another key, or none: what may be the same is read there, and compared byte by byte. @param isLater the other is the later one */
  static withOther(
    { archive, backupId }: Compared,
    other: Other,
    isLater: boolean,
    signal: AbortSignal,
  ): Comparing {
    return new Comparing(other.where, async (looked) => {
      try {
        const own = new Map<ItemRecord, Side>();
        const byPath = new Map<string, ItemRecord>();
        const bySize = new Map<string, ItemRecord[]>();
        for await (const item of filesOf(archive, backupId, signal)) {
          own.set(item, sideOf(item));
          byPath.set(item.path, item);
          const key = `${item.class} ${item.bytes}`;
          const some = bySize.get(key) ?? [];
          bySize.set(key, some);
          some.push(item);
        }
        const there: Side[] = [];
        for await (const entry of other.entries()) {
          signal.throwIfAborted();
          looked();
          const same = await sameAs(entry, archive, {
            there: byPath.get(entry.path),
            likely: bySize.get(`${entry.class} ${entry.bytes}`) ?? [],
          });
          const contents = (same && own.get(same)?.contents) ?? `elsewhere ${entry.path}`;
          there.push({ class: entry.class, path: entry.path, bytes: entry.bytes, contents });
        }
        const all = [...own.values()];
        return isLater ? compareSides(all, there) : compareSides(there, all);
      } finally {
        await other.close();
      }
    });
  }

  state(): Comparison {
    const differences = this.#differences;
    const classes = dataClassIds.flatMap((dataClass) => {
      const some = differences?.filter((one) => one.class === dataClass) ?? [];
      return some.length === 0 ? [] : [{ class: dataClass, counts: countChanges(some) }];
    });
    return {
      looked: this.#looked,
      isDone: differences !== null,
      trouble: this.#trouble,
      sentence: differences && allThere(countChanges(differences), this.#where),
      classes,
    };
  }

  items(
    dataClass: DataClass | null,
    change: Change | null,
    from: number,
  ): { rows: LookDifference[]; total: number } {
    const found = (this.#differences ?? []).filter(
      (one) =>
        (dataClass === null || one.class === dataClass) &&
        (change === null ? one.change !== 'same' : one.change === change),
    );
    // Saved passwords are counted, and nothing of them is shown.
    const shown = found.filter((one) => one.class !== 'saved-passwords');
    const rows = shown.slice(from, from + ROWS_AT_ONCE).map(({ before, after, ...one }) => ({
      ...one,
      before: before && readableName(before.path),
      after: after && readableName(after.path),
      bytesBefore: before?.bytes ?? null,
      bytesAfter: after?.bytes ?? null,
    }));
    return { rows, total: found.length };
  }
}

/** Read anew from its list: what somebody only looks at is held in less. */
async function* filesOf(
  archive: OpenArchive,
  backupId: string,
  signal: AbortSignal,
): AsyncGenerator<ItemRecord> {
  for await (const item of archive.items(backupId)) {
    signal.throwIfAborted();
    if (item.kind === 'file') yield item;
  }
}

const sideOf = (item: ItemRecord): Side => ({
  ...{ class: item.class, path: item.path, bytes: item.bytes },
  contents: item.chunks.toString('latin1'),
});

/** A file of whatever a backup is compared with. */
interface OtherEntry {
  class: DataClass;
  path: string;
  bytes: number;
  /** What its source calls this state of it: while it says the same the contents are the same; empty when it says nothing. */
  revision: string;
  read(): AsyncIterable<Uint8Array>;
}

/** What a backup is compared with, under another key or none. */
export interface Other {
  /** As a sentence says it. */
  where: string;
  entries(): AsyncIterable<OtherEntry>;
  close(): Promise<void>;
}

/** A device as it is now. */
export const onDevice = (link: DeviceLink, deviceId: LinkDeviceId, signal: AbortSignal): Other => ({
  where: 'on the device',
  async *entries() {
    for (const dataClass of dataClassIds) {
      for await (const entry of link.entries(deviceId, dataClass, signal)) {
        if (entry.kind !== 'file') continue;
        yield { ...entry, read: () => link.read(deviceId, entry, signal) };
      }
    }
  },
  close: () => Promise.resolve(),
});

/** A backup of another archive, which is closed with it. */
export const otherBackup = (archive: OpenArchive, backupId: string): Other => ({
  where: 'in the other backup',
  async *entries() {
    for await (const item of archive.items(backupId)) {
      if (item.kind !== 'file') continue;
      const { class: dataClass, path, bytes } = item;
      // What another device says of its state says nothing of this one.
      yield { class: dataClass, path, bytes, revision: '', read: () => archive.contents(item) };
    }
  },
  close: async () => {
    archive.key.forget();
    await archive.close();
  },
});

/** The item of the backup whose contents an entry has; null where it is none. */
async function sameAs(
  entry: OtherEntry,
  archive: OpenArchive,
  {
    there,
    likely,
  }: {
    /** What lies at the same path in the backup. */
    there: ItemRecord | undefined;
    /** What is just as large. */
    likely: readonly ItemRecord[];
  },
): Promise<ItemRecord | null> {
  // The device itself says that it is in the very state in which it was taken.
  if (there?.bytes === entry.bytes && there.mark !== '' && there.mark === entry.revision)
    return there;
  const candidates = likely.filter((item) => item !== there).slice(0, LIKELY_MOST);
  if (there?.bytes === entry.bytes) candidates.unshift(there);
  for (const item of candidates) {
    if (await archive.matches(item, entry.read())) return item;
  }
  return null;
}
