import { X509Certificate } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { BlockList, isIP } from 'node:net';
import { join } from 'node:path';
import { DAY_MS, PRIVATE_ADDRESSES, PRIVATE_NAMES, type Certified } from './certified.js';

/** It is made anew when it is good for no longer. */
const RENEW_DAYS = 30;

const privateAddresses = new BlockList();
for (const range of PRIVATE_ADDRESSES) {
  const [address = '', bits] = range.split('/');
  privateAddresses.addSubnet(address, Number(bits), isIP(address) === 4 ? 'ipv4' : 'ipv6');
}

/** Whether the own authority can vouch for a host: a private name or address, or a name without a dot. */
export function canVouchFor(host: string): boolean {
  const kind = isIP(host);
  if (kind > 0) return privateAddresses.check(host, kind === 4 ? 'ipv4' : 'ipv6');
  return !host.includes('.') || PRIVATE_NAMES.some((name) => host.endsWith(`.${name}`));
}

/** Which certificates an installation makes itself: keys for this user only, in a folder of its own. */
export class Authority {
  readonly #folder: string;

  constructor(folder: string) {
    this.#folder = folder;
  }

  /** The authority’s own certificate, for other computers to trust; made the first time. PEM. */
  async certificate(now: Date, names: readonly string[]): Promise<string> {
    const path = join(this.#folder, 'authority.crt');
    if (!existsSync(path)) {
      const { makeAuthority } = await import('./issuing.js');
      const made = await makeAuthority(now, names);
      this.#write('authority.key', made.key);
      this.#write('authority.crt', made.cert);
    }
    return readFileSync(path, 'utf8');
  }

  /** A certificate for some hosts: the one that is there, or another where that ends soon or is for others. */
  async forHosts(hosts: readonly string[], now: Date): Promise<Certified> {
    const cert = await this.certificate(now, hosts);
    const [certPath, keyPath] = [this.#path('server.crt'), this.#path('server.key')];
    if (existsSync(certPath) && existsSync(keyPath)) {
      const there = { cert: readFileSync(certPath, 'utf8'), key: readFileSync(keyPath, 'utf8') };
      if (isGoodFor(there, hosts, now)) return there;
    }
    const { issue } = await import('./issuing.js');
    const key = readFileSync(this.#path('authority.key'), 'utf8');
    const made = await issue({ cert, key }, hosts, now);
    this.#write('server.key', made.key);
    this.#write('server.crt', made.cert);
    return made;
  }

  #path(name: string): string {
    return join(this.#folder, name);
  }

  /** Whole, or not at all; for this user only. */
  #write(name: string, text: string): void {
    mkdirSync(this.#folder, { recursive: true, mode: 0o700 });
    writeFileSync(`${this.#path(name)}.part`, text, { mode: 0o600, flush: true });
    renameSync(`${this.#path(name)}.part`, this.#path(name));
  }
}

/** Whether it is for exactly these hosts, and good for a while yet. */
function isGoodFor({ cert }: Certified, hosts: readonly string[], now: Date): boolean {
  const certificate = new X509Certificate(cert);
  const left = Date.parse(certificate.validTo) - now.getTime();
  const named = (certificate.subjectAltName ?? '').split(', ').length;
  return (
    left > RENEW_DAYS * DAY_MS &&
    named === hosts.length &&
    hosts.every((host) => covers(certificate, host))
  );
}

/** Whether a certificate is for a host. */
export const covers = (certificate: X509Certificate, host: string): boolean =>
  (isIP(host) > 0 ? certificate.checkIP(host) : certificate.checkHost(host)) !== undefined;
