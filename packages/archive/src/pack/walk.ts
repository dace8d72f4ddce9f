import { lstatSync, readdirSync, readlinkSync, type BigIntStats } from 'node:fs';
import { classOfPath } from '@bright-cellar/core';
import type { FailedItem, NewItem } from '../format/backup-lines.js';
import { textOfName } from '../format/names.js';
import { failureOf, markOf } from './source-file.js';

/** What is found in a folder, in a fixed order: by name, a folder before what is in it. */
export type Found =
  | { type: 'file' | 'folder'; item: NewItem; path: Buffer }
  /** `target`: what the link points to, as bytes. It is never followed. */
  | { type: 'link'; item: NewItem; path: Buffer; target: Buffer }
  | { type: 'failed'; failed: Omit<FailedItem, 'type'> };

const SLASH = Buffer.from('/');

/** Memory grows with the largest single folder only. */
export function* walk(root: string): Generator<Found> {
  yield* walkFolder(Buffer.from(root), Buffer.alloc(0));
}

function* walkFolder(folder: Buffer, relative: Buffer): Generator<Found> {
  let names: Buffer[];
  try {
    names = readdirSync(folder, { encoding: 'buffer' });
  } catch (error) {
    if (relative.length === 0) throw error;
    yield failedAt(relative, failureOf(error));
    return;
  }
  names.sort((a, b) => Buffer.compare(a, b));
  for (const name of names) {
    const path = Buffer.concat([folder, SLASH, name]);
    const below = relative.length === 0 ? name : Buffer.concat([relative, SLASH, name]);
    const found = look(path, textOfName(below));
    yield found;
    if (found.type === 'folder') yield* walkFolder(path, below);
  }
}

/** One place of a tree. @param relative its path below the root, as text. */
export function look(path: Buffer, relative: string): Found {
  try {
    const stat = lstatSync(path, { bigint: true });
    if (stat.isFile()) return { type: 'file', item: itemOf(stat, relative, 'file'), path };
    if (stat.isDirectory()) return { type: 'folder', item: itemOf(stat, relative, 'folder'), path };
    if (stat.isSymbolicLink()) {
      const target = readlinkSync(path, { encoding: 'buffer' });
      const item = { ...itemOf(stat, relative, 'link'), bytes: target.length };
      return { type: 'link', item, path, target };
    }
    return failed(relative, 'not-a-file');
  } catch (error) {
    return failed(relative, failureOf(error));
  }
}

const failedAt = (relative: Buffer, reason: FailedItem['reason']) =>
  failed(textOfName(relative), reason);

const failed = (path: string, reason: FailedItem['reason']): Found => ({
  type: 'failed',
  failed: { class: classOfPath(path), path, reason },
});

function itemOf(stat: BigIntStats, path: string, kind: NewItem['kind']): NewItem {
  return {
    class: classOfPath(path),
    kind,
    path,
    bytes: kind === 'file' ? Number(stat.size) : 0,
    modified: timeOf(stat.mtimeNs),
    mode: Number(stat.mode & 0o7777n),
    mark: markOf(stat),
  };
}

const NS = 1_000_000_000n;

/** ISO 8601 in UTC with nanoseconds. */
export function timeOf(ns: bigint): string {
  const fraction = ((ns % NS) + NS) % NS;
  const whole = new Date(Number((ns - fraction) / 1_000_000n)).toISOString();
  const digits = fraction.toString().padStart(9, '0').replace(/0+$/, '').padEnd(3, '0');
  return `${whole.slice(0, -'000Z'.length)}${digits}Z`;
}

/** Nanoseconds since 1970 of such a time. */
export function nanosecondsOf(time: string): bigint {
  const [whole = '', fraction = ''] = time.replace(/Z$/, '').split('.');
  return BigInt(Date.parse(`${whole}Z`)) * 1_000_000n + BigInt(fraction.slice(0, 9).padEnd(9, '0'));
}

/** Seconds since 1970 of such a time, as exact as a number can be. */
export function secondsOf(time: string): number {
  const [whole = '', fraction = ''] = time.replace(/Z$/, '').split('.');
  return Date.parse(`${whole}Z`) / 1000 + Number(`0.${fraction || '0'}`);
}

/** How much a folder holds, before it is packed. */
export function measureFolder(root: string): { bytes: number; items: number } {
  const amount = { bytes: 0, items: 0 };
  for (const found of walk(root)) {
    if (found.type === 'failed') continue;
    amount.items += 1;
    amount.bytes += found.item.bytes;
  }
  return amount;
}
