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
import type { DeviceLink, Entry } from '@bright-cellar/device-link';

const ROWS_AT_ONCE = 200;
/** So many items of a backup are compared by their bytes with one of a device. */
const LIKELY_MOST = 4;

/** A backup that is compared, item by item. */
interface Compared {
  archive: OpenArchive;
  items: readonly ItemRecord[];
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
    { archive, items }: Compared,
    backupId: string,
    isLater: boolean,
    signal: AbortSignal,
  ): Comparing {
    return new Comparing(isLater ? 'in the later backup' : 'in this backup', async (looked) => {
      const others: Side[] = [];
      for await (const item of archive.items(backupId)) {
        signal.throwIfAborted();
        looked();
        if (item.kind === 'file') others.push(sideOf(item));
      }
      const own = items.map(sideOf);
      return isLater ? compareSides(own, others) : compareSides(others, own);
    });
  }

  /** With a device as it is now: what may be the same is read there, and compared byte by byte. */
  static withDevice(
    compared: Compared,
    { link, deviceId }: { link: DeviceLink; deviceId: LinkDeviceId },
    signal: AbortSignal,
  ): Comparing {
    return new Comparing('on the device', async (looked) => {
      const own = new Map(compared.items.map((item) => [item, sideOf(item)]));
      const byPath = new Map(compared.items.map((item) => [item.path, item]));
      const bySize = new Map<string, ItemRecord[]>();
      for (const item of compared.items) {
        const key = `${item.class} ${item.bytes}`;
        bySize.set(key, [...(bySize.get(key) ?? []), item]);
      }
      const there: Side[] = [];
      for (const dataClass of dataClassIds) {
        for await (const entry of link.entries(deviceId, dataClass, signal)) {
          looked();
          if (entry.kind !== 'file') continue;
          const same = await sameAs(entry, {
            ...{ compared, link, deviceId, signal },
            there: byPath.get(entry.path),
            likely: bySize.get(`${entry.class} ${entry.bytes}`) ?? [],
          });
          const contents = (same && own.get(same)?.contents) ?? `elsewhere ${entry.path}`;
          there.push({ class: entry.class, path: entry.path, bytes: entry.bytes, contents });
        }
      }
      return compareSides([...own.values()], there);
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

const sideOf = (item: ItemRecord): Side => ({
  ...{ class: item.class, path: item.path, bytes: item.bytes },
  contents: item.chunks.toString('latin1'),
});

/** The item of the backup whose contents an entry of a device has; null where it is none. */
async function sameAs(
  entry: Entry,
  {
    compared: { archive },
    link,
    deviceId,
    signal,
    there,
    likely,
  }: {
    compared: Compared;
    link: DeviceLink;
    deviceId: LinkDeviceId;
    signal: AbortSignal;
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
    if (await archive.matches(item, link.read(deviceId, entry, signal))) return item;
  }
  return null;
}
