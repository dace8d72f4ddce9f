// @ts-check
import { randomInt } from 'node:crypto';

/** Letters and digits that nobody takes for others. */
const SIGNS = 'abcdefghjkmnpqrstuvwxyz23456789';

/** What the first visit to a shop asks for: read from a terminal and typed in a browser; good for one start. About 59 bits. */
export function newSetUpCode() {
  const group = () => Array.from({ length: 4 }, () => SIGNS[randomInt(SIGNS.length)]).join('');
  return [group(), group(), group()].join('-');
}
