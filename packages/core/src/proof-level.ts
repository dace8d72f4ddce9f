import { z } from 'zod';

/** How closely an archive was looked at. */
export const proofLevels = ['structure', 'sample', 'bytes', 'full'] as const;
export const proofLevelSchema = z.enum(proofLevels);
export type ProofLevel = z.infer<typeof proofLevelSchema>;

/** What a look found. */
export const proofOutcomes = ['whole', 'damaged'] as const;
export type ProofOutcome = (typeof proofOutcomes)[number];

/** What the last look at a copy found, in the state that it is in; `unknown` where nobody looked since it changed. */
export type CopyState = 'unknown' | ProofOutcome;

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

/** The newest look that found damage, where none after it took that back. @param looks the newest first */
export function standingDamage<L extends Look>(looks: readonly L[]): L | null {
  const at = looks.findIndex(({ outcome }) => outcome === 'damaged');
  const damage = looks[at];
  if (!damage || looks.slice(0, at).some(({ level }) => takesBack(level, damage.level))) {
    return null;
  }
  return damage;
}
