import { z } from 'zod';

/** How closely an archive was looked at. */
export const proofLevels = ['structure', 'sample', 'bytes', 'full'] as const;
export const proofLevelSchema = z.enum(proofLevels);
export type ProofLevel = z.infer<typeof proofLevelSchema>;

/** What a look found. */
export const proofOutcomes = ['whole', 'damaged'] as const;
export type ProofOutcome = (typeof proofOutcomes)[number];

/** What the last look at a copy found, in the state that it is in; `unknown` where nobody looked since it changed. */
export const copyStates = ['unknown', ...proofOutcomes] as const;
export type CopyState = (typeof copyStates)[number];

/** What is known of an archive’s newest backup. */
export const proofStates = ['damaged', 'unproven', 'proven'] as const;
export type ProofState = (typeof proofStates)[number];

interface Look {
  level: ProofLevel;
  outcome: ProofOutcome;
}

/** Whether a look that found nothing wrong takes back damage that one of another level found: only one that looked at the same. */
export const takesBack = (level: ProofLevel, damaged: ProofLevel): boolean =>
  level === 'full' || level === damaged;

interface CopyLook extends Look {
  /** The copy that was looked at. */
  copyId: string;
  /** It speaks of the copy as it is now. */
  current: boolean;
  /** The copy is not there any more: what was found of it is history. */
  gone: boolean;
  /** A moment that sorts as text. */
  at: string;
}

/**
 * What is known of a backup by the looks at all of its copies. Each copy is judged by itself: none vouches for another, and
 * damage of one takes nothing from what was proven of another.
 * @param all the newest first
 * @returns `provenAt`: when a full reading last found it whole in a copy that is as it was then, with nothing found damaged
 * there since; only a full reading counts: nothing less makes it safe to erase a device. `damaged`: whether damage stands anywhere.
 */
export function knownOfBackup(all: readonly CopyLook[]): {
  provenAt: string | null;
  damaged: boolean;
} {
  const looks = all.filter(({ gone }) => !gone);
  const copies = [...new Set(looks.map(({ copyId }) => copyId))].map((id) =>
    looks.filter(({ copyId }) => copyId === id),
  );
  const proven = copies.flatMap((own) => provenIn(own) ?? []).sort();
  return {
    provenAt: proven.at(-1) ?? null,
    damaged: copies.some((own) => standingDamage(own) !== null),
  };
}

/** @param looks at one copy */
function provenIn(looks: readonly CopyLook[]): string | null {
  const last = looks.find(
    ({ level, outcome, current }) => outcome === 'damaged' || (level === 'full' && current),
  );
  return last?.outcome === 'whole' ? last.at : null;
}

/** The newest look that found damage, where none after it took that back. @param looks the newest first */
export function standingDamage<L extends Look>(looks: readonly L[]): L | null {
  const at = looks.findIndex(({ outcome }) => outcome === 'damaged');
  const damage = looks[at];
  if (!damage || looks.slice(0, at).some(({ level }) => takesBack(level, damage.level))) {
    return null;
  }
  return damage;
}
