import type { BackupHeader, CommittedBackup, ProofLevel } from '@bright-cellar/archive';
import type {
  Choice,
  ClassAmount,
  CoverageLine,
  DateStyle,
  ExtractFormat,
  ExtractSet,
} from '@bright-cellar/core';
import type { BackupScope, OperationResult } from '@bright-cellar/contract';

/** What an operation needs to know to be done, as it is kept in its row. Never a password. */
export type OperationInput =
  BackupInput | ProveInput | RestoreInput | EraseInput | ExportInput | ImportInput | ExtractInput;

export interface BackupInput {
  kind: 'backup';
  rackId: string;
  /** The archive's folder: its path, and its name on the rack. */
  folder: string;
  folderName: string;
  archive: string;
  /** Whether the archive begins with this backup. */
  isNew: boolean;
  backup: string;
  takenAt: string;
  ticket: string;
  device: NonNullable<BackupHeader['device']>;
  contentRevision: string;
  expected: { items: number; bytes: number };
  /** What is to be taken, in full. */
  choice: Choice;
  scope: BackupScope;
  coverage: CoverageLine[];
  /** A folder that somebody recovered, in place of the device itself. */
  recovered?: string;
  /** `age1…`, where the customer agreed to escrow. */
  escrow?: string;
  passwordHolder: string;
  reminder: string;
  ticketId: string;
  knownDeviceId: string;
  /** It goes on from an earlier try: its time says nothing of what such a backup takes. */
  continued?: true;
  /** Written when all is on the medium and nothing is decided: enough to finish the record after a crash. */
  committing?: Committing;
}

export interface Committing {
  committed: CommittedBackup;
  classes: ClassAmount[];
  failed: OperationResult['failed'];
  durationMs: number;
  workedMs: number | null;
}

export interface ProveInput {
  kind: 'prove';
  copyId: string;
  level: ProofLevel;
  expected: { items: number; bytes: number };
}

export interface RestoreInput {
  kind: 'restore';
  copyId: string;
  serial: string;
  family: string;
  osVersion: string;
  expected: { items: number; bytes: number };
}

export interface EraseInput {
  kind: 'erase';
  serial: string;
  /** The proven backup that made it allowed, and the copy that it was proven in. */
  provenBackupId: string;
  copyId: string;
  /** What the device held when that backup was taken. */
  contentRevision: string;
  /** What that copy was when it was proven. */
  expected: { archive: string; digest: string };
}

export interface ExportInput {
  kind: 'export';
  copyId: string;
  /** The package's file. */
  to: string;
  expected: { items: number; bytes: number };
}

export interface ImportInput {
  kind: 'import';
  copyId: string;
  committing?: Committing;
  /** The package's file. */
  from: string;
  packageBytes: number;
  osVersion: string;
  /** The device whose archive it is: a package of another is refused. */
  serial: string;
}

export interface ExtractInput {
  kind: 'extract';
  /** Where the files go: a folder on this rack. */
  folder: string;
  rack: { id: string; path: string };
  /** The device's content revision when it began; null where it has none. */
  revision: string | null;
  what:
    | {
        kind: 'records';
        set: ExtractSet;
        format: ExtractFormat;
        dates: DateStyle;
        /** Whether names of contacts stand in place of numbers. */
        named: boolean;
        /** Whether pictures are put beside it. */
        media: boolean;
        fileName: string;
        /** Added to the file that is there, or a new one. */
        append: boolean;
      }
    | {
        kind: 'applications';
        applications: { id: string; name: string }[];
        /** Who they came from, for the packages' manifests. */
        device: { family: string; model: string; serial: string; osVersion: string };
      };
}
