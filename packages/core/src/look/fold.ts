/** Plain letters need no taking apart. */
const PLAIN = /^[\x20-\x7e]*$/;

/** Letters as they compare: small ones, without what stands above or below them (Unicode NFKD without marks). */
export const folded = (text: string): string =>
  PLAIN.test(text)
    ? text.toLowerCase()
    : text
        .normalize('NFKD')
        .replace(/\p{M}+/gu, '')
        .toLowerCase();

/** A number however it is written: its digits, without what stands for a country where it is written for at home. */
export const digitsOf = (text: string): string => text.replace(/\D+/g, '');
