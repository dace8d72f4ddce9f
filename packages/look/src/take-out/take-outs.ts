import type { TakeOut } from '@bright-cellar/contract';
import { countOf, Failure, formatBytes, type TakeOutChoices } from '@bright-cellar/core';
import { clockOf } from '@bright-cellar/core/take-out';
import type { Hand } from '../basket.js';
import { outputsOf, type Source } from './outputs.js';
import {
  filesOf,
  newProgress,
  packageOf,
  type Packing,
  type Progress,
  type TakenFiles,
} from './package.js';

interface Prepared {
  hand: Hand;
  choices: TakeOutChoices;
  /** Held until the package is read, and no longer. */
  password: string | null;
  /** Only these, of an earlier one that failed in part; null for all of it. */
  only: ReadonlySet<string> | null;
  progress: Progress;
}

/** What a look-in's take-outs are made of and how they go. */
export class TakeOuts {
  readonly #source: Source;
  readonly #read: (item: number) => AsyncIterable<Uint8Array>;
  readonly #packing: Packing;
  readonly #prepared = new Map<string, Prepared>();
  #last: string | null = null;

  constructor(source: Source, read: (item: number) => AsyncIterable<Uint8Array>, packing: Packing) {
    this.#source = source;
    this.#read = read;
    this.#packing = packing;
  }

  /** @throws Failure `input-not-valid` where nothing is in hand, or nothing failed */
  prepare(
    hand: Hand,
    {
      choices,
      password,
      onlyFailed,
    }: { choices: TakeOutChoices; password: string | null; onlyFailed: boolean },
  ): string {
    if (choices.conversations === 'pdf' && !this.#source.pages)
      throw new Failure('input-not-valid', {
        what: 'Pages to print are not made here.',
        next: 'Take the pages to read: a browser prints them.',
      });
    const before = this.#prepared.get(this.#last ?? '');
    const only = onlyFailed ? (before?.progress.failedPaths ?? new Set<string>()) : null;
    const isNothing =
      hand.conversations.length + hand.files.length === 0 &&
      [...hand.rows.values()].every(({ size }) => size === 0);
    if (isNothing || only?.size === 0) {
      const what = only ? 'Nothing failed the last time.' : 'Nothing is in hand.';
      throw new Failure('input-not-valid', { what });
    }
    const id = crypto.randomUUID();
    // What failed before is tried again as it was.
    const again = only && before ? before : { hand, choices };
    this.#prepared.set(id, {
      ...{ hand: again.hand, choices: again.choices, password, only, progress: newProgress() },
    });
    this.#last = id;
    return id;
  }

  /** @throws Failure `not-found` */
  state(id: string): TakeOut {
    const one = this.#prepared.get(id);
    if (!one) throw new Failure('not-found');
    const { failedPaths: _, ...progress } = one.progress;
    return progress;
  }

  /** Its package, once. @throws Failure `not-found` */
  open(id: string, now: Date): { head: { name: string }; bytes: AsyncIterable<Uint8Array> } {
    const { name, files, password, progress } = this.#begin(id, now);
    const bytes = packageOf(files, password, progress, this.#packing);
    return { head: { name: `${name}.zip${password === null ? '' : '.age'}` }, bytes };
  }

  /** Its files, once, for whoever puts them somewhere. @param wrote where that is @throws Failure `not-found` */
  files(id: string, now: Date, wrote: string): TakenFiles {
    const { progress, ...taken } = this.#begin(id, now);
    progress.state = 'running';
    progress.wrote = wrote;
    const ended = (isWhole: boolean) => {
      progress.state = isWhole ? 'done' : 'cut';
    };
    return { ...taken, ended };
  }

  #begin(id: string, now: Date) {
    const one = this.#prepared.get(id);
    if (one?.progress.state !== 'waiting') throw new Failure('not-found');
    const { hand, choices, only, progress, password } = one;
    one.password = null;
    const outputs = outputsOf(hand, this.#source, choices);
    const wanted = only === null ? outputs : [...outputs].filter(({ path }) => only.has(path));
    const zone = choices.times === 'utc' ? 'UTC' : this.#source.contents.zone;
    const report = (so: Progress) => reportOf(so, this.#source.contents.takenAt, now, zone);
    const files = filesOf(wanted, this.#read, report, progress);
    return { name: `taken-out-${now.toISOString().slice(0, 10)}`, files, password, progress };
  }
}

/** What is in a package and what is not, in plain words. */
function reportOf(
  { taken, bytes, failed }: Progress,
  takenAt: number,
  now: Date,
  zone: string,
): string {
  const clock = clockOf(zone);
  return [
    `Taken out of the backup of ${clock(new Date(takenAt))} on ${clock(now)} (clock of ${zone}).`,
    '',
    `Taken: ${countOf(taken, 'file')}, ${formatBytes(bytes)}.`,
    ...(failed.length > 0
      ? [
          `Failed: ${countOf(failed.length, 'file')}.`,
          ...failed.map(({ path, reason }) => `- ${path}: ${reason}`),
        ]
      : ['Nothing failed.']),
    '',
    'What is in this package can be read by anybody who has it.',
    '',
  ].join('\r\n');
}
