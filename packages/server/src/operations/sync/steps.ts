import type { MergedRecords, SideName, Step } from '@bright-cellar/core/merge';
import type { SyncedKind } from '@bright-cellar/core';
import type { AnyLine } from '@bright-cellar/core/merge';
import { nameIn, recordId, recordsIn, type SideBook, type SideFile } from './side-book.js';

type RecordOf = MergedRecords[SyncedKind];

/** Steps on one side that are written together: into a file that is there, or a new one. */
export interface FileSteps {
  /** Null: a new one. */
  file: SideFile | null;
  lines: { line: AnyLine; step: Exclude<Step<RecordOf>, { do: 'nothing' }> }[];
}

/** The steps of one side, file by file. What stands for an occurrence goes into the file of the event that recurs. */
export function stepsByFile(
  side: SideName,
  book: SideBook,
  lines: readonly AnyLine[],
): FileSteps[] {
  const byFile = new Map<string, FileSteps>();
  const anew = new Map<string, FileSteps>();
  for (const line of lines) {
    const step = line.steps[side];
    if (step.do === 'nothing') continue;
    const id = step.do === 'add' ? book.fileFor(step.record) : book.fileOf(step.id);
    const file = id === null ? null : (book.files.get(id) ?? null);
    const uid = step.do === 'add' && 'uid' in step.record ? step.record.uid : '';
    const [into, key] = file
      ? ([byFile, file.id] as const)
      : ([anew, uid === '' ? line.key : uid] as const);
    const known = into.get(key);
    if (known) known.lines.push({ line, step });
    else into.set(key, { file, lines: [{ line, step }] });
  }
  return [...byFile.values(), ...anew.values()];
}

/** What a line's record is called and says on one side once it was written; null where it is not there as it should be. */
export function foundAfter(
  kind: SyncedKind,
  file: SideFile,
  record: RecordOf,
): { id: string; record: RecordOf } | null {
  const records = recordsIn(kind, file) ?? [];
  const meant = 'instead' in record ? record.instead : null;
  const name = nameIn(kind, record);
  const found =
    'instead' in record
      ? records.find(
          (one) =>
            'instead' in one &&
            one.instead === meant &&
            // Whoever had no mark got one.
            (record.uid === '' || one.uid === '' || one.uid === record.uid),
        )
      : records.length === 1
        ? records[0]
        : records.find((one) => nameIn(kind, one) === name);
  return found ? { id: recordId(kind, file.id, found, records.length), record: found } : null;
}
