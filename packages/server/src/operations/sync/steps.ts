import type { MergedRecords, SideName, Step } from '@bright-cellar/core/merge';
import type { SyncedKind } from '@bright-cellar/core';
import type { AnyLine } from '@bright-cellar/core/merge';
import { nameIn, type SideBook, type SideFile } from './side-book.js';

type RecordOf = MergedRecords[SyncedKind];

/** Steps on one side that are written together: into a file that is there, or a new one. */
export interface FileSteps {
  /** Null: a new one. */
  file: SideFile | null;
  lines: { line: AnyLine | null; step: Doing }[];
}

type Doing = Exclude<Step<RecordOf>, { do: 'nothing' }>;

/**
 * The steps of one side, file by file. What stands for an occurrence goes into the file of the event that recurs; where a side
 * keeps it apart, what recurs is written too, without that occurrence.
 */
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
  for (const { id, record } of book.leavesOut(side, lines)) {
    const file = book.files.get(book.fileOf(id));
    if (file) leaveOut(byFile, file, { do: 'change', id, record, fields: ['recurrence'] });
  }
  return [...byFile.values(), ...anew.values()];
}

function leaveOut(
  byFile: Map<string, FileSteps>,
  file: SideFile,
  step: Extract<Doing, { do: 'change' }>,
): void {
  const known = byFile.get(file.id);
  const its = known?.lines.find((one) => 'id' in one.step && one.step.id === step.id)?.step;
  if (its?.do === 'change') its.fields = [...new Set([...its.fields, ...step.fields])];
  else if (known && !its) known.lines.push({ line: null, step });
  else if (!known) byFile.set(file.id, { file, lines: [{ line: null, step }] });
}

/** What a line's record is called and says on one side once it was written; null where it is not there as it should be. */
export function foundAfter(
  kind: SyncedKind,
  book: SideBook,
  file: SideFile,
  record: RecordOf,
): { id: string; record: RecordOf } | null {
  const records = book.recordsIn(file) ?? [];
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
  return found ? { id: book.idOf(file.id, found, records.length), record: found } : null;
}
