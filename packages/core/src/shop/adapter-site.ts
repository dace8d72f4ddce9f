import { z } from 'zod';
import { localHosts } from './network.js';

/** Whether what is said to this address is heard by nobody on the way: TLS, or no way at all. */
function isUnheard(address: string): boolean {
  const { protocol, hostname } = new URL(address);
  return protocol === 'https:' || localHosts.includes(hostname);
}

/** Where an adapter listens: its origin alone, as `https://bench.example:4681`. */
const addressSchema = z
  .url({ protocol: /^https?$/, error: 'An address, as http://127.0.0.1:4681.' })
  .max(300)
  .refine((address) => /^https?:\/\/[^/?#@]+\/?$/i.test(address), {
    error: 'The address alone: no path and no name to sign in with.',
    abort: true,
  })
  .refine(isUnheard, 'Over the network with https only: devices’ contents go that way.');

/** Another adapter than the one that comes with the program: where it is, and what it lets one in by. */
export const adapterSiteSchema = z.object({
  address: addressSchema,
  // As RFC 6750 has it.
  token: z
    .string()
    .min(16, 'At least 16 characters.')
    .max(400)
    .regex(/^[\w\-.~+/]+=*$/, 'Letters, digits and - . _ ~ + / only.'),
});
export type AdapterSite = z.infer<typeof adapterSiteSchema>;

/** What is wrong with what was typed, by field; null where nothing is. */
export function adapterSiteProblems(typed: AdapterSite): Record<keyof AdapterSite, string | null> {
  const { shape } = adapterSiteSchema;
  const wrong = (key: keyof AdapterSite) =>
    shape[key].safeParse(typed[key]).error?.issues[0]?.message ?? null;
  return { address: wrong('address'), token: wrong('token') };
}
