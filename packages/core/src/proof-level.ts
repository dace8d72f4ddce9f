import { z } from 'zod';

/** How closely an archive was looked at. */
export const proofLevels = ['structure', 'sample', 'bytes', 'full'] as const;
/** What the last look at a copy found, in the state that it is in; `unknown` where nobody looked since it changed. */
export type CopyState = 'unknown' | 'whole' | 'damaged';

export const proofLevelSchema = z.enum(proofLevels);
export type ProofLevel = z.infer<typeof proofLevelSchema>;

/** What is known of an archive’s newest backup. */
export const proofStates = ['damaged', 'unproven', 'proven'] as const;
export type ProofState = (typeof proofStates)[number];
