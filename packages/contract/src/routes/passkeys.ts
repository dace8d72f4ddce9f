import { z } from 'zod';

/** What a browser’s own interface for passkeys takes and gives (W3C WebAuthn, in JSON); checked by who speaks it. */
export const webAuthnOptions = z.record(z.string(), z.unknown());

export const webAuthnAnswer = z.object({ id: z.string().max(2000) }).catchall(z.unknown());
