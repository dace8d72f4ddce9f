import { createHmac, createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { Failure, type Permission } from '@bright-cellar/core';
import { and, eq, gt, inArray, isNull, lte, sql } from 'drizzle-orm';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import { ipKeyGenerator } from 'express-rate-limit';
import type { Database } from '../database/connect.js';
import { roles, sessions, technicians } from '../database/schema.js';
import { permissionsOf, type Person } from '../kernel/actor.js';

/**
 * Over TLS with a prefix that a browser believes only of a cookie that is this host’s own, and never sends in the clear (RFC 6265bis).
 * On loopback there is no TLS.
 */
const cookieName = (request: Request): string =>
  request.secure ? '__Host-cellar_session' : 'cellar_session';
/** A working day. */
const SESSION_MS = 12 * 3_600_000;
/** One in which nobody did anything for so long is over: somebody left the counter and did not sign out. */
const IDLE_MS = 2 * 3_600_000;
/** How exactly that is known. */
const NOTED_EVERY_MS = 60_000;

export interface SignedIn {
  technicianId: string;
  name: string;
  login: string;
  role: string;
  may: readonly Permission[];
  tokenHash: string;
  csrfToken: string;
}

export const addressOf = (request: Request): string => ipKeyGenerator(request.ip ?? '');

/** Who acts, as everything behind the routes knows them. */
export const actorOf = (session: SignedIn, request: Request): Person => ({
  technicianId: session.technicianId,
  name: session.name,
  may: session.may,
  session: session.tokenHash,
  address: addressOf(request),
});

const signedIn = new WeakMap<Request, SignedIn>();

const hashOf = (token: string) => createHash('sha256').update(token).digest('hex');
/** Bound to the session, so that it needs no place of its own to be kept. */
const csrfOf = (token: string) => createHmac('sha256', token).update('csrf').digest('base64url');

/** Reads the session cookie of every request and remembers who it belongs to. Refuses nothing by itself. */
export function readSession(db: Database): RequestHandler {
  return async (request: Request, _response: Response, next: NextFunction) => {
    const cookies = request.cookies as Record<string, string | undefined>;
    const token = cookies[cookieName(request)];
    if (token) {
      const tokenHash = hashOf(token);
      const [row] = await db
        .select({
          id: technicians.id,
          name: technicians.name,
          login: technicians.login,
          role: technicians.role,
          ownRole: roles.permissions,
          usedAt: sessions.usedAt,
          createdAt: sessions.createdAt,
        })
        .from(sessions)
        .innerJoin(technicians, eq(technicians.id, sessions.technicianId))
        .leftJoin(roles, eq(roles.id, technicians.role))
        .where(
          and(
            eq(sessions.tokenHash, tokenHash),
            gt(sessions.expiresAt, new Date()),
            isNull(technicians.leftAt),
          ),
        );
      const now = Date.now();
      const lastUse = (row?.usedAt ?? row?.createdAt)?.getTime() ?? 0;
      if (row && now - lastUse < IDLE_MS) {
        if (isPress(request) && now - lastUse > NOTED_EVERY_MS) {
          await db
            .update(sessions)
            .set({ usedAt: new Date(now) })
            .where(eq(sessions.tokenHash, tokenHash));
        }
        signedIn.set(request, {
          technicianId: row.id,
          name: row.name,
          login: row.login,
          role: row.role,
          may: permissionsOf(row.role, row.ownRole),
          tokenHash,
          csrfToken: csrfOf(token),
        });
      }
    }
    next();
  };
}

/** Screens fetch by themselves what changed; only what somebody pressed, or a page that was opened, is a use. */
const isPress = (request: Request) => request.method !== 'GET' || request.path === '/session';

/** Of these sessions, those that are still good. */
export async function goodSessions(db: Database, tokenHashes: string[]): Promise<Set<string>> {
  if (tokenHashes.length === 0) return new Set();
  const now = new Date();
  const used = new Date(now.getTime() - IDLE_MS);
  const rows = await db
    .select({ token: sessions.tokenHash })
    .from(sessions)
    .where(
      and(
        inArray(sessions.tokenHash, tokenHashes),
        gt(sessions.expiresAt, now),
        gt(sql`coalesce(${sessions.usedAt}, ${sessions.createdAt})`, used),
      ),
    );
  return new Set(rows.map(({ token }) => token));
}

/** Who asks; null when nobody is signed in. */
export function currentSession(request: Request): SignedIn | null {
  return signedIn.get(request) ?? null;
}

/**
 * Who asks. Where something is to be changed, the request must also carry the session's CSRF token.
 * @throws Failure `not-signed-in`, `request-not-trusted`.
 */
export function checkedSession(request: Request, changes: boolean): SignedIn {
  const session = signedIn.get(request);
  if (!session) throw new Failure('not-signed-in');
  if (changes) {
    const given = Buffer.from(String(request.headers['x-csrf-token'] ?? ''));
    const expected = Buffer.from(session.csrfToken);
    // By bytes: a token of other letters can have as many characters, and more bytes.
    const same = given.length === expected.length && timingSafeEqual(given, expected);
    if (!same) throw new Failure('request-not-trusted');
  }
  return session;
}

/** Begins a session and sets its cookie. @returns the session's CSRF token. */
export async function beginSession(
  db: Database,
  technicianId: string,
  response: Response,
): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  const now = new Date();
  await db.delete(sessions).where(lte(sessions.expiresAt, now));
  await db.insert(sessions).values({
    tokenHash: hashOf(token),
    technicianId,
    createdAt: now,
    expiresAt: new Date(now.getTime() + SESSION_MS),
  });
  response.cookie(cookieName(response.req), token, {
    secure: response.req.secure,
    httpOnly: true,
    sameSite: 'strict',
    path: '/',
    maxAge: SESSION_MS,
  });
  return csrfOf(token);
}

export async function endSession(
  db: Database,
  tokenHash: string,
  response: Response,
): Promise<void> {
  await db.delete(sessions).where(eq(sessions.tokenHash, tokenHash));
  response.clearCookie(cookieName(response.req), {
    ...{ secure: response.req.secure, httpOnly: true, sameSite: 'strict', path: '/' },
  });
}
