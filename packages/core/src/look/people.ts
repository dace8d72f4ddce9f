import { plainNumber, type Contact } from '../records/contact.js';

export interface Person {
  /** The same for all numbers of one contact. */
  id: string;
  /** Their name; where no contact has the number, the number. */
  name: string;
}

/** Whose each number is, by the customer's own contacts. */
export class People {
  readonly #byNumber = new Map<string, Person>();
  #contacts = 0;

  add(contacts: readonly Contact[]): void {
    for (const { name, numbers } of contacts) {
      this.#contacts += 1;
      const person = { id: `contact ${this.#contacts}`, name };
      if (name === '') continue;
      for (const number of numbers) {
        const plain = plainNumber(number);
        // Of two cards with one number the first counts: it is one person all the same.
        if (plain !== '' && !this.#byNumber.has(plain)) this.#byNumber.set(plain, person);
      }
    }
  }

  of(number: string): Person {
    const plain = plainNumber(number);
    return this.#byNumber.get(plain) ?? { id: `number ${plain || number}`, name: number };
  }
}
