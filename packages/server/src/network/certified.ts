/** A certificate with whatever comes after it in its chain, and its key; PEM (RFC 7468). */
export interface Certified {
  cert: string;
  key: string;
}

export const DAY_MS = 86_400_000;

/** Names that nobody on the public network has (RFC 6762, 8375, 9476 and what routers give): the authority can vouch for no other. */
export const PRIVATE_NAMES = ['local', 'lan', 'internal', 'home.arpa', 'home', 'localhost'];
export const PRIVATE_ADDRESSES = [
  ...['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '169.254.0.0/16', '127.0.0.0/8'],
  ...['fc00::/7', 'fe80::/10', '::1/128'],
];
