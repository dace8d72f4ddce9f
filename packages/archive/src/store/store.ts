/**
 * Where archives lie: one rack, of whatever kind. Names are paths with `/`: an archive's own name, then the name in its bag.
 * What lies there under a name below `data/` is never changed: an archive goes from one state to the next by
 * {@link Store.swap} alone. Errors carry a POSIX code (`ENOENT` where nothing has that name, `ENOSPC`, `EIO` …), of
 * whatever kind the store is; `diskFailure` says what they mean to a technician.
 */
export interface Store {
  /** What another thread or process opens the same store by; null where only this object knows it. */
  readonly address: Address | null;
  /** Path of the folder of this computer that shows all of it; null where none does. */
  readonly mounted: string | null;
  /** Which rack lies there, as it says itself; null where none does. */
  identity(): Promise<string | null>;
  room(): Promise<Room>;
  /** All that lies below a prefix, which is empty or ends with `/`; in the order of names. Empty where nothing does. */
  list(prefix: string): Promise<Stored[]>;
  /** Names of all that lies at its top and may be an archive: no hidden ones. In the order of names. */
  folders(): Promise<string[]>;
  /** @throws `ENOENT`, `EINVAL` where it is no plain file */
  open(name: string, from?: Source): Promise<StoredFile>;
  /**
   * Writes a whole file, which is durable then, or not there at all: at the top, or into an archive that is there.
   * @param how `if-absent`: never over another. @throws `EEXIST`, `ENOENT` where the archive is not there
   */
  put(name: string, contents: Contents, how: PutMode): Promise<void>;
  /** What is not there is removed already. */
  remove(name: string): Promise<void>;
  /**
   * Takes a whole archive away, with whatever was on its way into it: from one moment to the next nobody finds it any more,
   * then its bytes go. For who has its exclusive lease. Cut off, and repeated, it finishes; what is not there is gone.
   * @param first what goes before anything else, for good: overwritten in place where the medium can, and removed
   */
  removeArchive(archive: string, first?: readonly string[]): Promise<void>;
  /** Where what will come into an archive is made: a folder of this computer, whatever the store is. */
  work(archive: string): Promise<Work>;
  /** Where files of another copy are put before they belong to an archive: on its own medium. Kept until a swap takes them in. */
  incoming(archive: string): Promise<Incoming>;
  /**
   * Brings an archive from one state to the next, wholly or not at all. What was decided is carried out by whoever has the
   * next lease if this process does not.
   * @param beforeDeciding runs when all is on the medium; nothing happens if it throws
   * @throws Failure `archive-changed` where it is not in the state from which the next one was made
   */
  swap(archive: string, next: NextState, beforeDeciding: () => Promise<void>): Promise<void>;
  /**
   * Any number read an archive, and beside them one may add to it; who takes something out of it has it alone. What was
   * decided before is carried out before the first has it. `Leases` keeps count of those of a process.
   * @throws Failure `archive-in-use` at once, without waiting
   */
  lease(archive: string, kind: LeaseKind): Promise<Lease>;
}

/** Where a rack is: its kind, and what that kind wants to know. `openStore` parses it. */
export interface Address {
  kind: string;
}

/** Room on a rack, in bytes. */
export interface Room {
  capacity: number;
  free: number;
}

export interface Stored {
  name: string;
  /** Null for what is no plain file. */
  bytes: number | null;
}

export interface StoredFile {
  /** Bytes. */
  readonly size: number;
  /** Fills `into` from an offset on; answers at once where the medium is at hand. @returns bytes read: fewer at the file's end only */
  read(into: Uint8Array, from: number): number | Promise<number>;
  close(): void;
}

/** What can be opened by its name. */
export interface Files {
  open(name: string, from?: Source): Promise<StoredFile>;
}

/** Where bytes are read from: `medium` is past what the system still has of them in memory, where that can be done. */
export type Source = 'anywhere' | 'medium';

export type Contents = string | Uint8Array | AsyncIterable<Uint8Array>;
export type PutMode = 'if-absent' | 'over';
/** `update`: held by one, beside any number of `shared`. */
export type LeaseKind = 'shared' | 'update' | 'exclusive';

export interface Lease {
  readonly kind: LeaseKind;
  /** Makes `exclusive` of it. @throws Failure `archive-in-use` where somebody else has one too */
  upgrade(): void;
  release(): Promise<void>;
}

/** Where files are made before they belong to an archive. */
export interface Work {
  /** Path of the folder; `pending/` below it takes what is made. It may not be there yet. */
  root: string;
  /** Nothing of the archive is whole yet. */
  isNew: boolean;
}

/** Files on their way into an archive, by their names in it. A file that was cut off can be there, and be shorter. */
export interface Incoming extends Files {
  list(): Promise<Stored[]>;
  /** Writes a whole file, in the place of one that is there, and syncs it. */
  put(name: string, contents: Contents): Promise<void>;
  remove(name: string): Promise<void>;
  /** Gives all of it up. */
  discard(): Promise<void>;
}

export interface NextState {
  /** SHA-512 of the manifest of the state that it follows; null for an archive's first. */
  from: string | null;
  /** Files that come: their names below the work's folder, synced, and in the archive. */
  add: { from: string; to: string }[];
  /** Files that come out of {@link Store.incoming}, by their names. */
  incoming?: string[];
  /** Files that go. */
  remove: string[];
  /** The bag's tag files as they are then, by name. */
  tags: ReadonlyMap<string, string>;
  /** Folders below the work's `pending/` that go with it. */
  work: string[];
}
