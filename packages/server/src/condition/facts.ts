import { execFileSync } from 'node:child_process';
import { readFileSync, statSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { isCarried, isNarrow, roomAbove, type ConditionFacts } from '@bright-cellar/core';
import { and, count, desc, eq, gt, isNull, min, sql } from 'drizzle-orm';
import { z } from 'zod';
import { countOwed } from '../care/index.js';
import { escrowLeavers } from '../escrow/index.js';
import type { Database } from '../database/connect.js';
import { audit, operations, outbox, racks, rackSaves, technicians } from '../database/schema.js';
import { migrationsIn, migrationsKnown } from '../database/upgrade.js';
import { ailingOf } from '../racks/index.js';
import { recoveryOf } from '../saves/index.js';
import { readDecided, restoredFrom, settingsIn, type Decided } from '../settings/index.js';

/** What only a program that runs knows of itself. */
export interface Running {
  processes: Promise<NonNullable<ConditionFacts['processes']>>;
  certificate: ConditionFacts['certificate'];
  /** How far browsers were told of changes: the number of an entry in the outbox. */
  toldUpTo: number;
}

/**
 * Asks everything that an installation can be asked: what does not answer is null.
 * @param running null where the program does not run
 */
export async function conditionFacts(
  db: Database,
  folder: string,
  now: Date,
  running: Running | null,
): Promise<ConditionFacts> {
  const outside = {
    ...{ now, disk: await diskOf(folder), versions: versions() },
    keyIsPrivate: isPrivate(folder),
    certificate: running?.certificate ?? null,
  };
  const database = await databaseFacts(db);
  const processes = running?.processes ?? null;
  if (database === null) return { ...outside, processes: await processes, ...nothingKnown };
  const decided = await readDecided(db);
  const brought = restoredFrom(decided);
  const [answers, lastEntry, made, keepers, escrowLeft, seen, saves, queues] = await Promise.all([
    processes,
    newestEntry(db),
    migrationsIn(db),
    countKeepers(db),
    escrowLeavers(db, decided),
    rackFacts(db),
    saveFacts(db, decided),
    queueFacts(db, now, running, decided),
  ]);
  return {
    ...{ ...outside, processes: answers, database, lastEntry, keepers, escrowLeft },
    ...{ racks: seen, saves, queues },
    migrations: { made, known: migrationsKnown() },
    restoredFrom: brought && new Date(brought.savedAt),
  };
}

const nothingKnown = {
  ...{ database: null, lastEntry: null, migrations: null, racks: [], keepers: 0 },
  escrowLeft: [],
  saves: { hasKey: false, lastAt: null, problems: [] },
  queues: { orderedForMs: 0, untold: 0, owed: { total: 0, isMore: false } },
  restoredFrom: null,
};

async function databaseFacts(db: Database): Promise<ConditionFacts['database']> {
  const began = performance.now();
  try {
    const [rows] = await db.execute(sql`select version() as version`);
    const { version } = (rows as unknown as { version: string }[])[0] ?? { version: '' };
    const answeredInMs = Math.round(performance.now() - began);
    return { version: version.split('-')[0] ?? version, answeredInMs };
  } catch {
    return null;
  }
}

async function diskOf(folder: string): Promise<ConditionFacts['disk']> {
  try {
    const { bsize, blocks, bavail } = await statfs(folder);
    return { capacity: bsize * blocks, free: bsize * bavail };
  } catch {
    return null;
  }
}

/** What a save, a session or a rack is opened with: nobody else on this computer may read it. */
function isPrivate(folder: string): boolean {
  try {
    return ['', 'installation.key'].every(
      (name) => (statSync(join(folder, name)).mode & 0o077) === 0,
    );
  } catch {
    return false;
  }
}

async function newestEntry(db: Database): Promise<Date | null> {
  const [row] = await db.select({ at: audit.at }).from(audit).orderBy(desc(audit.at)).limit(1);
  return row?.at ?? null;
}

async function countKeepers(db: Database): Promise<number> {
  const [row] = await db
    .select({ keepers: count() })
    .from(technicians)
    .where(and(eq(technicians.role, 'keeper'), isNull(technicians.leftAt)));
  return row?.keepers ?? 0;
}

async function rackFacts(db: Database): Promise<ConditionFacts['racks']> {
  const rows = await db.select().from(racks).where(isNull(racks.retiredAt));
  const ailing = await ailingOf(
    db,
    rows.map(({ id }) => id),
  );
  return rows.map((rack) => ({
    ...{ name: rack.name, present: rack.present, carried: isCarried(rack.kind) },
    ...{ room: roomAbove(rack), narrow: isNarrow(rack), ailing: ailing.get(rack.id) ?? null },
  }));
}

async function saveFacts(db: Database, decided: Decided): Promise<ConditionFacts['saves']> {
  const rows = await db
    .select({ rack: racks.name, at: rackSaves.savedAt, problem: rackSaves.problem })
    .from(rackSaves)
    .innerJoin(racks, eq(racks.id, rackSaves.rackId))
    .where(isNull(racks.retiredAt));
  const times = rows.flatMap(({ at }) => (at ? [at.getTime()] : []));
  return {
    hasKey: recoveryOf(decided) !== null,
    lastAt: times.length > 0 ? new Date(Math.max(...times)) : null,
    problems: rows.flatMap(({ rack, problem }) => (problem ? [{ rack, what: problem }] : [])),
  };
}

async function queueFacts(
  db: Database,
  now: Date,
  running: Running | null,
  decided: Decided,
): Promise<ConditionFacts['queues']> {
  const [[ordered], [untold], owed] = await Promise.all([
    db
      .select({ since: min(operations.startedAt) })
      .from(operations)
      .where(eq(operations.state, 'ordered')),
    db
      .select({ entries: count() })
      .from(outbox)
      .where(gt(outbox.id, running?.toldUpTo ?? Number.MAX_SAFE_INTEGER)),
    countOwed(db, settingsIn(decided).care),
  ]);
  return {
    orderedForMs: ordered?.since ? now.getTime() - ordered.since.getTime() : 0,
    untold: untold?.entries ?? 0,
    owed,
  };
}

const ROOT = fileURLToPath(new URL('../../../..', import.meta.url));
const packageSchema = z.object({ version: z.string() });
let known: ConditionFacts['versions'] | null = null;

/** What runs here: asked once, it does not change. */
function versions(): ConditionFacts['versions'] {
  return (known ??= {
    program: programVersion(),
    node: process.versions.node,
    supported: isSupported(process.versions.node),
  });
}

/** The version, and the state of the source where it is a clone of it. */
function programVersion(): string {
  const { version } = packageSchema.parse(
    JSON.parse(readFileSync(join(ROOT, 'package.json'), 'utf8')),
  );
  try {
    const git = ['-C', ROOT, 'rev-parse', '--short', 'HEAD'];
    return `${version} (${execFileSync('git', git, { encoding: 'utf8', stdio: 'pipe' }).trim()})`;
  } catch {
    return version;
  }
}

/** `>=20.19`, as package.json says. */
function isSupported(node: string): boolean {
  const [major = 0, minor = 0] = node.split('.').map(Number);
  return major > 20 || (major === 20 && minor >= 19);
}
