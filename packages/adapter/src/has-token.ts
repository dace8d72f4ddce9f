import { createHash, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage } from 'node:http';

/** Whether who asks has the token of the link (RFC 6750). */
export function hasToken({ headers }: IncomingMessage, token: string): boolean {
  const given = /^Bearer (.+)$/.exec(headers.authorization ?? '')?.[1] ?? '';
  return sameSecret(given, token);
}

function sameSecret(given: string, expected: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(given), digest(expected));
}
