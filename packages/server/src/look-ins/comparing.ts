import type { ItemRecord, OpenArchive } from '@bright-cellar/archive';
import type { Comparison, LookDifference } from '@bright-cellar/contract';
import {
  changes,
  dataClassIds,
  Failure,
  readableName,
  type Change,
  type DataClass,
  type LinkDeviceId,
} from '@bright-cellar/core';
import {
  allThere,
  SideComparison,
  sumOfChanges,
  type Compared,
  type Side,
} from '@bright-cellar/core/look';
import type { DeviceLink } from '@bright-cellar/device-link';

const ROWS_AT_ONCE = 200;
/** So many items of a backup are compared by their bytes with one of a device. */
const LIKELY_MOST = 4;

/** A backup that is compared, item by item. */
interface OpenBackup {
  archive: OpenArchive;
  backupId: string;
}

/** Compares an open backup with something else, while somebody waits for it: how far that is, and what came out. */
export class Comparing {
  #looked = 0;
  #trouble: string | null = null;
  #compared: Compared | null = null;
  readonly #where: string;
  /** Ends when all was compared, or it is over. */
  readonly ended: Promise<void>;

  private constructor(where: string, work: (looked: () => void) => Promise<Compared>) {
    this.#where = where;
    this.ended = work(() => (this.#looked += 1)).then(
      (compared) => {
        this.#compared = compared;
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
    { archive, backupId }: OpenBackup,
    otherId: string,
    isLater: boolean,
    signal: AbortSignal,
  ): Comparing {
    return new Comparing(isLater ? 'in the later backup' : 'in this backup', async (looked) => {
      const comparison = new SideComparison();
      const [before, after] = isLater ? [backupId, otherId] : [otherId, backupId];
      const sides = [
        { of: filesOf(archive, before, signal), tell: comparison.before.bind(comparison) },
        { of: filesOf(archive, after, signal), tell: comparison.after.bind(comparison) },
      ];
      for await (const { value, tell } of inTurn(sides)) {
        looked();
        tell(sideOf(value));
      }
      return comparison.end();
    });
  }

  /** With what has another key, or none: what may be the same is read there, and compared byte by byte. @param isLater the other is the later one */
  static withOther(
    { archive, backupId }: OpenBackup,
    other: Other,
    isLater: boolean,
    signal: AbortSignal,
  ): Comparing {
    return new Comparing(other.where, async (looked) => {
      try {
        const comparison = new SideComparison();
        const own = comparison[isLater ? 'before' : 'after'].bind(comparison);
        const others = comparison[isLater ? 'after' : 'before'].bind(comparison);
        const byPath = new Map<string, Own>();
        const bySize = new Map<string, Own[]>();
        for await (const item of filesOf(archive, backupId, signal)) {
          const side: Own = { ...sideOf(item), mark: item.mark };
          own(side);
          byPath.set(item.path, side);
          const key = `${item.class} ${item.bytes}`;
          const some = bySize.get(key) ?? [];
          bySize.set(key, some);
          some.push(side);
        }
        for await (const entry of other.entries()) {
          signal.throwIfAborted();
          looked();
          const same = await sameAs(entry, archive, {
            there: byPath.get(entry.path),
            likely: bySize.get(`${entry.class} ${entry.bytes}`) ?? [],
          });
          const contents = same?.contents ?? `elsewhere ${entry.path}`;
          others({ class: entry.class, path: entry.path, bytes: entry.bytes, contents });
        }
        return comparison.end();
      } finally {
        await other.close();
      }
    });
  }

  state(): Comparison {
    const { counts } = this.#compared ?? { counts: null };
    const classes = dataClassIds.flatMap((dataClass) => {
      const some = counts?.get(dataClass);
      return some ? [{ class: dataClass, counts: some }] : [];
    });
    return {
      looked: this.#looked,
      isDone: counts !== null,
      trouble: this.#trouble,
      sentence: counts && allThere(sumOfChanges(counts.values()), this.#where),
      classes,
    };
  }

  items(
    dataClass: DataClass | null,
    change: Change | null,
    from: number,
  ): { rows: LookDifference[]; total: number } {
    const rows: LookDifference[] = [];
    let before = 0;
    for (const one of this.#found(dataClass, change)) {
      // Saved passwords are counted, and nothing of them is shown.
      if (one.class === 'saved-passwords') continue;
      if (before++ < from) continue;
      if (rows.push(rowOf(one)) === ROWS_AT_ONCE) break;
    }
    return { rows, total: this.#total(dataClass, change) };
  }

  *#found(dataClass: DataClass | null, change: Change | null): Generator<Found> {
    const isAsked = (one: DataClass) => dataClass === null || one === dataClass;
    for (const one of this.#compared?.differences ?? [])
      if (isAsked(one.class) && (change === null || one.change === change)) yield one;
    if (change !== 'same') return;
    for (const [of, sides] of this.#compared?.same ?? [])
      if (isAsked(of))
        for (const side of sides) yield { change, class: of, before: side, after: side };
  }

  #total(dataClass: DataClass | null, change: Change | null): number {
    const sums = sumOfChanges(
      [...(this.#compared?.counts ?? [])]
        .filter(([one]) => dataClass === null || one === dataClass)
        .map(([, counts]) => counts),
    );
    const asked = change === null ? changes.filter((one) => one !== 'same') : [change];
    return asked.reduce((sum, one) => sum + sums[one].items, 0);
  }
}

/** An item, and what became of it. */
interface Found {
  change: Change;
  class: DataClass;
  before: Pick<Side, 'path' | 'bytes'> | null;
  after: Pick<Side, 'path' | 'bytes'> | null;
}

const rowOf = ({ before, after, ...one }: Found): LookDifference => ({
  ...one,
  before: before && readableName(before.path),
  after: after && readableName(after.path),
  bytesBefore: before?.bytes ?? null,
  bytesAfter: after?.bytes ?? null,
});

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

/** One of each in turn, while there are some: what lies in the same order in both meets at once. */
async function* inTurn<S extends { of: AsyncGenerator<ItemRecord> }>(
  some: readonly S[],
): AsyncGenerator<S & { value: ItemRecord }> {
  const left = new Set(some);
  while (left.size > 0) {
    for (const one of left) {
      const next = await one.of.next();
      if (next.done === true) left.delete(one);
      else yield { ...one, value: next.value };
    }
  }
}

/** An item of the backup that is looked into, with what its source called that state of it. */
type Own = Side & Pick<ItemRecord, 'mark'>;

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
    there: Own | undefined;
    /** What is just as large. */
    likely: readonly Own[];
  },
): Promise<Own | null> {
  // The device itself says that it is in the very state in which it was taken.
  if (there?.bytes === entry.bytes && there.mark !== '' && there.mark === entry.revision)
    return there;
  const candidates = likely.filter((item) => item !== there).slice(0, LIKELY_MOST);
  if (there?.bytes === entry.bytes) candidates.unshift(there);
  for (const item of candidates) {
    const chunks = Buffer.from(item.contents, 'latin1');
    if (await archive.matches({ bytes: item.bytes, chunks }, entry.read())) return item;
  }
  return null;
}
