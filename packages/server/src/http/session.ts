import { createHmac, createHash, randomBytes, randomUUID, timingSafeEqual } from 'node:crypto';
import {
  Failure,
  needsSecondFactor,
  signInRulesSchema,
  usualSignIn,
  type Permission,
} from '@bright-cellar/core';
import { and, eq, gt, inArray, isNull, lte, Param, sql } from 'drizzle-orm';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import { ipKeyGenerator } from 'express-rate-limit';
import type { Database } from '../database/connect.js';
import {
  passkeys,
  roles,
  sessions,
  settings,
  technicians,
  trustedComputers,
} from '../database/schema.js';
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
/** A screen locks itself; one that did not, since its browser is gone, is locked so much later. */
const GRACE_MS = 120_000;

export interface SignedIn {
  technicianId: string;
  name: string;
  login: string;
  role: string;
  may: readonly Permission[];
  tokenHash: string;
  csrfToken: string;
  /** Nobody is let in until they say who they are. */
  isLocked: boolean;
  /** The house asks for more than a password, and they have nothing else yet. */
  mustEnrol: boolean;
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

/** Asked for each request: its text is made once. */
const sessionQuery = (db: Database) =>
  db
    .select({
      ...{ id: technicians.id, name: technicians.name, login: technicians.login },
      ...{ role: technicians.role, ownRole: roles.permissions },
      ...{ usedAt: sessions.usedAt, createdAt: sessions.createdAt },
      ...{ lockedAt: sessions.lockedAt, rules: settings.value },
      hasFactor: sql<string>`${technicians.totpSecret} is not null or exists (select 1 from ${passkeys} where ${passkeys.technicianId} = ${technicians.id})`,
    })
    .from(sessions)
    .innerJoin(technicians, eq(technicians.id, sessions.technicianId))
    .leftJoin(roles, eq(roles.id, technicians.role))
    .leftJoin(settings, eq(settings.name, 'signIn'))
    .where(
      and(
        eq(sessions.tokenHash, sql.placeholder('tokenHash')),
        gt(sessions.expiresAt, new Param(sql.placeholder('now'), sessions.expiresAt)),
        isNull(technicians.leftAt),
      ),
    )
    .prepare();

/** Reads the session cookie of every request and remembers who it belongs to. Refuses nothing by itself. */
export function readSession(db: Database): RequestHandler {
  const query = sessionQuery(db);
  return async (request: Request, _response: Response, next: NextFunction) => {
    const token = cookieOf(request, cookieName(request));
    if (token) {
      const tokenHash = hashOf(token);
      const [row] = await query.execute({ tokenHash, now: new Date() });
      const now = Date.now();
      const lastUse = (row?.usedAt ?? row?.createdAt)?.getTime() ?? 0;
      if (row && now - lastUse < IDLE_MS) {
        const rules = signInRulesSchema.safeParse(row.rules).data ?? usualSignIn;
        const lockMs = Number(rules.lockMinutes) * 60_000;
        const isLocked = row.lockedAt !== null || (lockMs > 0 && now - lastUse > lockMs + GRACE_MS);
        if (!isLocked && isPress(request) && now - lastUse > NOTED_EVERY_MS) {
          await db
            .update(sessions)
            .set({ usedAt: new Date(now) })
            .where(eq(sessions.tokenHash, tokenHash));
        }
        signedIn.set(request, {
          ...{ technicianId: row.id, name: row.name, login: row.login, tokenHash },
          ...{ role: row.role, may: permissionsOf(row.role, row.ownRole) },
          // Few ask for it.
          get csrfToken() {
            return csrfOf(token);
          },
          isLocked,
          mustEnrol: Number(row.hasFactor) === 0 && needsSecondFactor(rules, row.role),
        });
      }
    }
    next();
  };
}

function cookieOf(request: Request, name: string): string | undefined {
  return (request.cookies as Record<string, string | undefined>)[name];
}

/**
 * That a session is let in to what asks for a permission: it is not locked, and whoever holds it gives as much as the house asks for.
 * @throws Failure `session-locked`, `second-factor-missing`
 */
export function mustBeOpen(session: SignedIn, permission: Permission): void {
  if (session.isLocked) throw new Failure('session-locked');
  if (session.mustEnrol && permission !== 'own-account') throw new Failure('second-factor-missing');
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

/** On this computer somebody signed in in full today: a PIN opens here. */
const computerCookie = (request: Request): string =>
  request.secure ? '__Host-cellar_counter' : 'cellar_counter';

const cookieOptions = (request: Request) =>
  ({ httpOnly: true, sameSite: 'strict', path: '/', secure: request.secure }) as const;

/**
 * Begins a session and sets its cookie; the one that this browser had is over.
 * @param full whether they said in full who they are: then a PIN opens on this computer until the day is over
 * @returns the session's CSRF token.
 */
export async function beginSession(
  db: Database,
  technicianId: string,
  response: Response,
  full = true,
): Promise<string> {
  const request = response.req;
  const token = randomBytes(32).toString('base64url');
  const now = new Date();
  const expiresAt = new Date(now.getTime() + SESSION_MS);
  const before = cookieOf(request, cookieName(request));
  await db.delete(sessions).where(lte(sessions.expiresAt, now));
  if (before) await db.delete(sessions).where(eq(sessions.tokenHash, hashOf(before)));
  await db.insert(sessions).values({
    ...{ id: randomUUID(), tokenHash: hashOf(token), technicianId, createdAt: now, expiresAt },
    address: addressOf(request).slice(0, 64),
    browser: (request.headers['user-agent'] ?? '').slice(0, 160),
  });
  response.cookie(cookieName(request), token, { ...cookieOptions(request), maxAge: SESSION_MS });
  if (full) await trustComputer(db, response, expiresAt);
  return csrfOf(token);
}

async function trustComputer(db: Database, response: Response, expiresAt: Date): Promise<void> {
  const token = randomBytes(32).toString('base64url');
  await db.delete(trustedComputers).where(lte(trustedComputers.expiresAt, new Date()));
  await db.insert(trustedComputers).values({ tokenHash: hashOf(token), expiresAt });
  response.cookie(computerCookie(response.req), token, {
    ...cookieOptions(response.req),
    maxAge: expiresAt.getTime() - Date.now(),
  });
}

/** Whether somebody signed in in full today in the browser that asks. */
export async function isTrusted(db: Database, request: Request): Promise<boolean> {
  const token = cookieOf(request, computerCookie(request));
  if (!token) return false;
  const [found] = await db
    .select({ expiresAt: trustedComputers.expiresAt })
    .from(trustedComputers)
    .where(
      and(
        eq(trustedComputers.tokenHash, hashOf(token)),
        gt(trustedComputers.expiresAt, new Date()),
      ),
    );
  return found !== undefined;
}

export async function endSession(
  db: Database,
  tokenHash: string,
  response: Response,
): Promise<void> {
  await db.delete(sessions).where(eq(sessions.tokenHash, tokenHash));
  response.clearCookie(cookieName(response.req), cookieOptions(response.req));
}
