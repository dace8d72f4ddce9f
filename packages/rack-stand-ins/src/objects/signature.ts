import { createHash, createHmac } from 'node:crypto';
import type { IncomingMessage } from 'node:http';

/** Whoever may ask: the name of a key, and the key. */
export interface Login {
  accessKey: string;
  secretKey: string;
}

const ALGORITHM = 'AWS4-HMAC-SHA256';
const UNSIGNED = 'UNSIGNED-PAYLOAD';
/** A clock that is off by more is refused. */
const SKEW_MS = 15 * 60_000;

const sha256 = (bytes: string | Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const hmac = (key: string | Uint8Array, text: string) =>
  createHmac('sha256', key).update(text).digest();

/**
 * Checks who signs a request, by signature version 4 in its `Authorization` header.
 * @param now by the clock of the storage
 * @returns the error's code; null where it is right
 */
export function refusalOf(
  request: IncomingMessage,
  body: Uint8Array,
  { accessKey, secretKey }: Login,
  now: number,
): string | null {
  const given =
    /^(\S+) Credential=([^,]+), ?SignedHeaders=([^,]+), ?Signature=([0-9a-f]{64})$/.exec(
      request.headers.authorization ?? '',
    );
  const [, algorithm, credential = '', names = '', signature] = given ?? [];
  const [name, ...scope] = credential.split('/');
  const date = header(request, 'x-amz-date');
  const digest = header(request, 'x-amz-content-sha256');
  if (algorithm !== ALGORITHM || scope.length !== 4) return 'AccessDenied';
  if (name !== accessKey) return 'InvalidAccessKeyId';
  if (Math.abs(timeOf(date) - now) > SKEW_MS) return 'RequestTimeTooSkewed';
  if (digest !== UNSIGNED && digest !== sha256(body)) return 'XAmzContentSHA256Mismatch';
  const [path = '', query = ''] = (request.url ?? '').split('?');
  const canonical = [
    request.method,
    path,
    query.split('&').filter(Boolean).map(withValue).sort().join('&'),
    ...names
      .split(';')
      .map((each) => `${each}:${header(request, each).trim().replace(/ +/g, ' ')}`),
    '',
    names,
    digest,
  ].join('\n');
  const toSign = [ALGORITHM, date, scope.join('/'), sha256(canonical)].join('\n');
  const key = scope.reduce<string | Uint8Array>(hmac, `AWS4${secretKey}`);
  return hmac(key, toSign).toString('hex') === signature ? null : 'SignatureDoesNotMatch';
}

const withValue = (part: string) => (part.includes('=') ? part : `${part}=`);
const header = (request: IncomingMessage, name: string) => String(request.headers[name] ?? '');

/** `20261128T101500Z` */
const timeOf = (text: string) =>
  Date.parse(text.replace(/^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/, '$1-$2-$3T$4:$5:$6Z'));
