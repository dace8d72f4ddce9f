/** Somebody whom the customer knows. */
export interface Contact {
  /** As one would write it; empty where the card names nobody. */
  name: string;
  numbers: string[];
}

/** Numbers as they compare: digits, and a leading plus. */
export const plainNumber = (number: string): string => number.replace(/[^\d+]/g, '');
