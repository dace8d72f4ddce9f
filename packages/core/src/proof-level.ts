import { z } from 'zod';

/** How closely an archive was looked at. */
export const proofLevels = ['structure', 'sample', 'bytes', 'full'] as const;
export const proofLevelSchema = z.enum(proofLevels);
export type ProofLevel = z.infer<typeof proofLevelSchema>;
