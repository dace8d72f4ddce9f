import { createHash } from 'node:crypto';
import { listOf } from '@bright-cellar/core/crossing';
import { parseRecords, patchedRecords, type RecordChange } from '@bright-cellar/core/formats';
import {
  mergeRules,
  type Held,
  type MergedRecords,
  type MergeRules,
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

/** Records of one kind as one side holds them, and in which file each lies. */
export class SideBook {
  readonly kind: SyncedKind;
  /** How much that side keeps of a field. */
  readonly letters: Letters;
  readonly files = new Map<string, SideFile>();
  readonly held: Held<RecordOf>[] = [];
  /** Files that nobody can read: what lies in them is not gone. */
  readonly unreadable = new Set<string>();
  readonly #places = new Map<string, { file: string; at: number }>();
  readonly #filesByUid = new Map<string, string>();

  constructor(kind: SyncedKind, letters: Letters = {}) {
    this.kind = kind;
    this.letters = letters;
  }

  add(file: SideFile): void {
    this.files.set(file.id, file);
    const records = recordsIn(this.kind, file);
    if (records === null) {
      this.unreadable.add(file.id);
      return;
    }
    for (const [at, record] of records.entries()) {
      const id = recordId(this.kind, file.id, record, records.length);
      this.#places.set(id, { file: file.id, at });
      if ('uid' in record && record.uid !== '') this.#filesByUid.set(record.uid, file.id);
      this.held.push({ id, record, changedAt: file.changedAt });
    }
  }

  fileOf(recordIdOf: string): string {
    return this.#places.get(recordIdOf)?.file ?? fileIn(recordIdOf);
  }

  /** In which file something new belongs: what stands for an occurrence lies with the event that recurs. */
  fileFor(record: RecordOf): string | null {
    return 'uid' in record ? (this.#filesByUid.get(record.uid) ?? null) : null;
  }

  /** One file's contents after some steps; null where nothing is left in it. */
  patched(file: SideFile, steps: readonly Step<RecordOf>[]): Uint8Array | null {
    const changes = steps.flatMap((step): RecordChange<RecordOf>[] => {
      if (step.do === 'nothing') return [];
      if (step.do === 'add') return [{ at: null, record: step.record, fields: [] }];
      const at = this.#places.get(step.id)?.at ?? null;
      if (at === null) return [];
      return step.do === 'remove'
        ? [{ at, record: null, fields: [] }]
        : [{ at, record: step.record, fields: step.fields }];
    });
    return patchedRecords(file.format, file.contents, file.id, changes);
  }
}

/** What lies in a file; null where nobody can read it. */
export function recordsIn(
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
export function recordId(kind: SyncedKind, file: string, record: RecordOf, count: number): string {
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
