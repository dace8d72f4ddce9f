/** Plain letters need no taking apart. */
const PLAIN = /^[\t\n\r\x20-\x7e]*$/;

/** Letters as they compare: small ones, without what stands above or below them (Unicode NFKD without marks). */
export const folded = (text: string): string =>
  PLAIN.test(text)
    ? text.toLowerCase()
    : text
        .normalize('NFKD')
        .replace(/\p{M}+/gu, '')
        .toLowerCase();

/** The digits of a text, without what people put between them. */
export const digitsOf = (text: string): string => text.replace(/\D+/g, '');

/** So many digits tell a number, whatever stands before them: a country, or a nought for at home. */
const NUMBER_END = 9;

/** What a number has in common however it is written. */
export const numberEnd = (text: string): string => digitsOf(text).slice(-NUMBER_END);
