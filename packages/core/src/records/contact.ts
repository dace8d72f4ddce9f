/** Somebody whom the customer knows. */
export interface Contact {
  /** As one would write it; empty where the card names nobody. */
  name: string;
  numbers: string[];
  emails: string[];
  /** Each as one would write it, its parts between commas. */
  addresses: string[];
  /** `1984-03-07`; `--03-07` where no year is known; empty for none. */
  birthday: string;
  organisation: string;
  note: string;
  /** What they look like; null where the card has no picture, or only says where one would be. */
  picture: CardPicture | null;
}

/** A picture that a card carries. */
export interface CardPicture {
  /** `image/jpeg`, `image/png`, `image/gif` or `image/webp`. */
  mediaType: string;
  /** RFC 4648, section 4. */
  base64: string;
}

/** A contact of whom nothing is known. */
export const noContact: Contact = {
  ...{ name: '', numbers: [], emails: [], addresses: [], birthday: '', organisation: '', note: '' },
  picture: null,
};

/** Numbers as they compare: digits, and a leading plus. */
export const plainNumber = (number: string): string => number.replace(/[^\d+]/g, '');
