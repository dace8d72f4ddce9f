import { z } from 'zod';

/** What this computer is called by itself: what is said there leaves it on no wire. */
export const localHosts: readonly string[] = ['127.0.0.1', 'localhost', '[::1]'];

/** A name or address under which a computer is found: a host name (RFC 1123), or an IPv4 or IPv6 address. */
export const hostSchema = z
  .string()
  .trim()
  .toLowerCase()
  .max(253)
  .refine(
    (host) =>
      z.ipv4().safeParse(host).success ||
      z.ipv6().safeParse(host).success ||
      (/^(?=.*[a-z])[a-z\d](?:[a-z\d-]{0,61}[a-z\d])?(?:\.[a-z\d](?:[a-z\d-]{0,61}[a-z\d])?)*$/.test(
        host,
      ) &&
        !host.endsWith('.localhost')),
    'That is no name or address of a computer.',
  );

/** `https://…`, and nothing after the name. */
const proxyAddressSchema = z.url({ protocol: /^https$/ }).refine((address) => {
  const { pathname, search, hash, username } = new URL(address);
  return pathname === '/' && search === '' && hash === '' && username === '';
}, 'An address like https://cellar.example, and nothing after it.');

/**
 * How other computers and customers’ own phones reach the program:
 * - `alone`: not at all, only who sits at this computer;
 * - `own`: over TLS, with certificates of a small authority of the installation’s own;
 * - `given`: over TLS, with a certificate that somebody gave;
 * - `proxy`: through another program on this computer that speaks TLS.
 */
export const networkRulesSchema = z.discriminatedUnion('mode', [
  z.object({ mode: z.literal('alone') }),
  z.object({
    mode: z.literal('own'),
    hosts: z.array(hostSchema).min(1, 'Say a name or address at least.').max(20),
  }),
  z.object({
    mode: z.literal('given'),
    hosts: z.array(hostSchema).min(1, 'Say a name or address at least.').max(20),
  }),
  z.object({
    mode: z.literal('proxy'),
    address: proxyAddressSchema,
    deskAddress: proxyAddressSchema,
  }),
]);
export type NetworkRules = z.infer<typeof networkRulesSchema>;
export type NetworkMode = NetworkRules['mode'];

/** What each is called. */
export const networkModes: Readonly<Record<NetworkMode, string>> = {
  alone: 'Only who sits at this computer',
  own: 'Over TLS, with certificates that this program makes itself',
  given: 'Over TLS, with a certificate that you have',
  proxy: 'Through a proxy on this computer that speaks TLS',
};

/** As it stands in an address: an IPv6 address in brackets. */
export const inAddress = (host: string): string => (host.includes(':') ? `[${host}]` : host);
