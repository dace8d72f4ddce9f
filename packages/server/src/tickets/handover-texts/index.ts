import { formatBytes } from '@bright-cellar/core';
import type { HandoverLanguage } from '@bright-cellar/contract';
import { de } from './de.js';
import { en, type HandoverTexts } from './en.js';
import { es } from './es.js';
import { fr } from './fr.js';

const texts: Record<HandoverLanguage, HandoverTexts> = { en, de, fr, es };

/** What the sheet says, in a customer's language, with its days and figures as people write them there. */
export class HandoverWords {
  readonly #texts: HandoverTexts;
  readonly #day: Intl.DateTimeFormat;
  readonly #number: Intl.NumberFormat;
  readonly #point: string;

  constructor(language: HandoverLanguage) {
    this.#texts = texts[language];
    const locale = language === 'en' ? 'en-GB' : language;
    this.#day = new Intl.DateTimeFormat(locale, { dateStyle: 'long', timeZone: 'UTC' });
    this.#number = new Intl.NumberFormat(locale);
    const parts = this.#number.formatToParts(0.5);
    this.#point = parts.find(({ type }) => type === 'decimal')?.value ?? '.';
  }

  say(key: keyof HandoverTexts, values: Record<string, string> = {}): string {
    return this.#texts[key].replaceAll(/\{(\w+)\}/g, (_, name: string) => values[name] ?? '');
  }

  /** Null where nobody wrote it: what a device or a shop called so itself. */
  maybe(key: string): string | null {
    return Object.hasOwn(this.#texts, key) ? this.#texts[key as keyof HandoverTexts] : null;
  }

  day(at: string): string {
    return this.#day.format(new Date(at));
  }

  size(bytes: number): string {
    return formatBytes(bytes).replace('.', this.#point);
  }

  count(n: number): string {
    return this.#number.format(n);
  }
}
