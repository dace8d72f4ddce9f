import { createHash } from 'node:crypto';
import { listOf } from '@bright-cellar/core/crossing';
import { parseRecords, patchedRecords, type RecordChange } from '@bright-cellar/core/formats';
import {
  apartOf,
  mergeRules,
  togetherOf,
  withOccurrences,
  type Held,
  type AnyLine,
  type MergedRecords,
  type MergeRules,
  type SideName,
  type Step,
} from '@bright-cellar/core/merge';
import type { Letters, SyncedKind } from '@bright-cellar/core';

/** A file of records on one side: a card, a task, a memo, or an event with what stands for its occurrences. */
export interface SideFile {
  /** Its path, or its address. */
  id: string;
  /** Another once its contents are: a revision, an etag. */
  tag: string;
  format: string;
  contents: Uint8Array;
  changedAt: number | null;
}

type RecordOf = MergedRecords[SyncedKind];

/** How a side keeps what it holds. */
export interface Keeping {
  /** How much it keeps of a field. */
  letters: Letters;
  /** It has no word for what stands in the place of an occurrence. */
  keepsApart: boolean;
}

/** As every address book and every calendar of a server does. */
export const keepsAll: Keeping = { letters: {}, keepsApart: false };

/**
 * Records of one kind as one side holds them, and in which file each lies. What a side keeps in another way than all others is
 * known here as they know it, and written as that side keeps it.
 */
export class SideBook {
  readonly kind: SyncedKind;
  readonly letters: Letters;
  readonly #keepsApart: boolean;
  readonly files = new Map<string, SideFile>();
  readonly held: Held<RecordOf>[] = [];
  /** Files that nobody can read: what lies in them is not gone. */
  readonly unreadable = new Set<string>();
  readonly #places = new Map<string, { file: string; at: number }>();
  readonly #filesByUid = new Map<string, string>();
  /** Wall times of what recurs at which something else stands, by its mark: on a side that keeps those apart. */
  readonly #others = new Map<string, Set<string>>();

  constructor(kind: SyncedKind, { letters, keepsApart }: Keeping) {
    this.kind = kind;
    this.letters = letters;
    this.#keepsApart = keepsApart;
  }

  add(file: SideFile): void {
    this.files.set(file.id, file);
    const records = recordsIn(this.kind, file);
    if (records === null) {
      this.unreadable.add(file.id);
      return;
    }
    for (const [at, there] of records.entries()) {
      const record = this.#known(there);
      const id = this.idOf(file.id, record, records.length);
      this.#places.set(id, { file: file.id, at });
      if ('uid' in there && there.uid !== '') this.#filesByUid.set(there.uid, file.id);
      this.held.push({ id, record, changedAt: file.changedAt });
    }
  }

  /** All of that side was read. */
  isAll(): void {
    if (!this.#keepsApart) return;
    for (const { record } of this.held) this.#expect('add', record);
    for (const held of this.held) held.record = this.#withOccurrences(held.record);
  }

  /**
   * What recurs, and has to leave other occurrences out than it does once the steps of some lines are done: what stands in their
   * place comes or goes. It is written so from now on, and with the mark by which both belong together.
   */
  leavesOut(side: SideName, lines: readonly AnyLine[]): Held<RecordOf>[] {
    if (!this.#keepsApart) return [];
    const uids = new Set<string>();
    for (const { steps, [side]: held } of lines) {
      const step = steps[side];
      const record = step.do === 'add' ? step.record : held?.record;
      if (!record || (step.do !== 'add' && step.do !== 'remove')) continue;
      const uid = this.#expect(step.do, record);
      if (uid !== undefined) uids.add(uid);
    }
    const recurring = recurringOn(side, lines);
    return [...uids].flatMap((uid) => {
      const held = recurring.get(uid)?.[side];
      return held ? [{ ...held, record: { ...held.record, uid } }] : [];
    });
  }

  /** Whether what it stands in the place of an occurrence of is there, or comes. @param recurring of {@link recurringOn} */
  hasPlaceFor(record: RecordOf, recurring: ReadonlyMap<string, AnyLine>): boolean {
    if (!this.#keepsApart || !('instead' in record) || record.instead === null) return true;
    return recurring.has(record.uid);
  }

  /** @returns the mark of what recurs, where something stands in the place of one of its occurrences */
  #expect(what: 'add' | 'remove', record: RecordOf): string | undefined {
    if (!('instead' in record) || record.instead === null) return undefined;
    const others = this.#others.get(record.uid) ?? new Set();
    this.#others.set(record.uid, others);
    if (what === 'add') others.add(record.instead);
    else others.delete(record.instead);
    return record.uid;
  }

  #known(record: RecordOf): RecordOf {
    return this.#keepsApart && 'instead' in record ? togetherOf(record) : record;
  }

  #withOccurrences(record: RecordOf): RecordOf {
    return 'instead' in record && record.instead === null
      ? withOccurrences(record, this.#others.get(record.uid) ?? new Set())
      : record;
  }

  /** A record as that side keeps it. */
  asKept(record: RecordOf): RecordOf {
    return this.#keepsApart && 'instead' in record
      ? apartOf(record, this.#others.get(record.uid) ?? [])
      : record;
  }

  /** What this side calls a record. A device that keeps each by itself calls it by its file, whatever mark it is given. */
  idOf(file: string, record: RecordOf, count: number): string {
    return this.#keepsApart && count === 1 ? file : recordId(this.kind, file, record, count);
  }

  /** What is called so now that was once called otherwise: by its file and its mark. */
  calledNow(id: string): string {
    const file = fileIn(id);
    return this.#keepsApart && !this.#places.has(id) && this.#places.has(file) ? file : id;
  }

  /** What lies in a file of that side; null where nobody can read it. */
  recordsIn(file: SideFile): RecordOf[] | null {
    const records = recordsIn(this.kind, file);
    if (!this.#keepsApart || !records) return records;
    return records.map((record) => this.#withOccurrences(this.#known(record)));
  }

  fileOf(recordIdOf: string): string {
    return this.#places.get(recordIdOf)?.file ?? fileIn(recordIdOf);
  }

  /** In which file something new belongs: what stands for an occurrence lies with the event that recurs. */
  fileFor(record: RecordOf): string | null {
    const kept = this.#keepsApart && 'instead' in record ? apartOf(record, []) : record;
    return 'uid' in kept ? (this.#filesByUid.get(kept.uid) ?? null) : null;
  }

  /** One file's contents after some steps; null where nothing is left in it. */
  patched(file: SideFile, steps: readonly Step<RecordOf>[]): Uint8Array | null {
    const changes = steps.flatMap((step): RecordChange<RecordOf>[] => {
      if (step.do === 'nothing') return [];
      if (step.do === 'add') return [{ at: null, record: this.asKept(step.record), fields: [] }];
      const at = this.#places.get(step.id)?.at ?? null;
      if (at === null) return [];
      return step.do === 'remove'
        ? [{ at, record: null, fields: [] }]
        : [{ at, record: this.asKept(step.record), fields: step.fields }];
    });
    return patchedRecords(file.format, file.contents, file.id, changes);
  }
}

/** What recurs and is on a side, or comes there, by the marks that it has on either. */
export function recurringOn(side: SideName, lines: readonly AnyLine[]): Map<string, AnyLine> {
  const recurring = new Map<string, AnyLine>();
  for (const line of lines) {
    const step = line.steps[side].do;
    if (step === 'remove' || (line[side] === null && step !== 'add')) continue;
    for (const held of [line.device, line.partner])
      if (held && recurs(held.record) && held.record.uid !== '')
        recurring.set(held.record.uid, line);
  }
  return recurring;
}

const recurs = (record: RecordOf): record is MergedRecords['events'] =>
  'instead' in record &&
  record.instead === null &&
  (record.rule !== null || record.also.length > 0);

function recordsIn(
  kind: SyncedKind,
  { format, contents, id }: Pick<SideFile, 'format' | 'contents' | 'id'>,
): RecordOf[] | null {
  try {
    const records = parseRecords(format, contents, id);
    return records.kind === kind ? (listOf(records) as RecordOf[]) : null;
  } catch {
    return null;
  }
}

/** The same for the same record as long as it lies in that file, whatever comes beside it. */
function recordId(kind: SyncedKind, file: string, record: RecordOf, count: number): string {
  if ('instead' in record) return `${file}\n${record.uid}\n${record.instead ?? ''}`;
  return count === 1
    ? file
    : `${file}\n${createHash('sha256').update(nameIn(kind, record)).digest('base64url').slice(0, 12)}`;
}

/** What tells a record from the others in its file. */
export const nameIn = (kind: SyncedKind, record: RecordOf): string => {
  const { identityOf, titleOf } = mergeRules[kind] as unknown as MergeRules<RecordOf>;
  return identityOf(record) ?? titleOf(record);
};
export const fileIn = (recordIdOf: string): string => recordIdOf.split('\n')[0] ?? recordIdOf;
