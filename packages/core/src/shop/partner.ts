import { z } from 'zod';
import { localHosts } from './network.js';

/** Where a customer keeps their address book and calendars: a server that speaks CardDAV and CalDAV. What one signs in with stands in no row. */
export const partnerSiteSchema = z.object({
  address: z
    .url({ protocol: /^https?$/, error: 'An address, as https://books.example.', abort: true })
    .max(500)
    .refine((address) => new URL(address).username === '' && new URL(address).password === '', {
      error: 'Without a name and a password: they have fields of their own.',
      abort: true,
    })
    .refine((address) => {
      const { protocol, hostname } = new URL(address);
      return protocol === 'https:' || localHosts.includes(hostname);
    }, 'Over the network with https only: the customer’s contacts go that way.'),
  user: z.string().trim().min(1, 'Who signs in there.').max(200),
});
export type PartnerSite = z.infer<typeof partnerSiteSchema>;
