import { nearestWords, type Ask } from '@bright-cellar/core';
import { sum } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archiveRows, devices, racks } from '../database/schema.js';

/** A name that was changed is a word within that time; one of a new archive is at once. */
const FRESH_MS = 60_000;
/** No search waits for words to be read again, unless they are older than this. */
const KEPT_MS = 300_000;
/** A word is what has no sign in it that separates words. */
const between = /[^\p{L}\p{N}]+/u;

/**
 * The words by which archives are found, but for what is noted of them. In memory only, and for minutes: whose names are let
 * go is in no list of words either.
 */
export class Vocabulary {
  #words: Promise<string[]> | null = null;
  #readAt = 0;
  #copies = -1;

  /** @returns what was meant, by words that nothing has; null where each word is there, or nothing is near */
  async meant(db: Database, { words, taken }: Ask): Promise<Meant | null> {
    const known = await this.#all(db);
    const all = words.map((word) => nearestWords(word, known));
    const isSame = all.every((some, n) => some.length === 1 && some[0] === words[n]);
    return isSame ? null : { words: all, taken };
  }

  async #all(db: Database): Promise<string[]> {
    // Kept for each rack: to count the archives themselves takes as long as to look through them.
    const [kept] = await db.select({ copies: sum(racks.archives) }).from(racks);
    const copies = Number(kept?.copies ?? 0);
    const age = performance.now() - this.#readAt;
    const isAll = copies === this.#copies;
    if (this.#words && isAll && age < FRESH_MS) return this.#words;
    this.#readAt = performance.now();
    this.#copies = copies;
    const reading = wordsOf(db);
    const known = this.#words && isAll && age < KEPT_MS ? this.#words : reading;
    this.#words = known;
    reading.then(
      () => (this.#words = reading),
      () => (this.#words = null),
    );
    return known;
  }
}

/** For each word that was typed, those that may be meant by it. */
export interface Meant {
  words: readonly (readonly string[])[];
  taken: Ask['taken'];
}

async function wordsOf(db: Database): Promise<string[]> {
  const [customers, named, models] = await Promise.all([
    db.selectDistinct({ name: archiveRows.customerName }).from(archiveRows),
    db.selectDistinct({ name: archiveRows.deviceName }).from(archiveRows),
    db
      .selectDistinct({ family: devices.familyName, model: devices.model, kind: devices.kind })
      .from(devices),
  ]);
  const texts = [
    ...[...customers, ...named].map(({ name }) => name),
    ...models.flatMap(({ family, model, kind }) => [family, model, kind]),
  ];
  const words = texts.flatMap((text) => text.toLowerCase().split(between));
  // Numbers are never taken for others.
  return [...new Set(words.filter((word) => word.length > 2 && !/\d/.test(word)))];
}
