import { z } from 'zod';

/**
 * Between the server and the work process: HTTP on a socket that only this user may open. Passwords
 * cross it in request bodies and are kept by neither side longer than the work takes.
 */
export const tryPasswordSchema = z.object({ folder: z.string(), password: z.string() });
export const startSchema = z.object({
  id: z.uuid(),
  password: z.string(),
  packagePassword: z.string(),
});
export const changePasswordSchema = z.object({
  folder: z.string(),
  password: z.string(),
  newPassword: z.string(),
});
export const compareSchema = z.object({
  folder: z.string(),
  password: z.string(),
  device: z.string(),
});
export const comparedSchema = z.object({
  same: z.object({ items: z.int(), bytes: z.int() }),
  toSend: z.object({ items: z.int(), bytes: z.int() }),
});
export const folderSchema = z.object({ folder: z.string() });
export const stopSchema = z.object({ id: z.uuid() });
export const changeSchema = z.object({ operation: z.uuid() });
