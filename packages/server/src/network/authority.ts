import 'reflect-metadata';
import { randomBytes, webcrypto, X509Certificate } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { BlockList, isIP } from 'node:net';
import { join } from 'node:path';
import { AsnConvert } from '@peculiar/asn1-schema';
import { GeneralName, GeneralSubtree, GeneralSubtrees, NameConstraints } from '@peculiar/asn1-x509';
import * as x509 from '@peculiar/x509';

/** A certificate with whatever comes after it in its chain, and its key; PEM (RFC 7468). */
export interface Certified {
  cert: string;
  key: string;
}

const DAY_MS = 86_400_000;
const AUTHORITY_DAYS = 3650;
const CERTIFICATE_DAYS = 90;
/** It is made anew when it is good for no longer. */
const RENEW_DAYS = 30;
const ALGORITHM = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' };

/** Names that nobody on the public network has (RFC 6762, 8375, 9476 and what routers give): the authority can vouch for no other. */
const PRIVATE_NAMES = ['local', 'lan', 'internal', 'home.arpa', 'home', 'localhost'];
const PRIVATE_ADDRESSES = [
  ...['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '169.254.0.0/16', '127.0.0.0/8'],
  ...['fc00::/7', 'fe80::/10', '::1/128'],
];
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
    if (!existsSync(path)) await this.#makeAuthority(now, names);
    return readFileSync(path, 'utf8');
  }

  /** A certificate for some hosts: the one that is there, or another where that ends soon or is for others. */
  async forHosts(hosts: readonly string[], now: Date): Promise<Certified> {
    await this.certificate(now, hosts);
    const [certPath, keyPath] = [this.#path('server.crt'), this.#path('server.key')];
    if (existsSync(certPath) && existsSync(keyPath)) {
      const there = { cert: readFileSync(certPath, 'utf8'), key: readFileSync(keyPath, 'utf8') };
      if (isGoodFor(there, hosts, now)) return there;
    }
    const made = await this.#issue(hosts, now);
    this.#write('server.key', made.key);
    this.#write('server.crt', made.cert);
    return made;
  }

  async #makeAuthority(now: Date, hosts: readonly string[]): Promise<void> {
    const keys = await webcrypto.subtle.generateKey(ALGORITHM, true, ['sign', 'verify']);
    const plain = hosts.filter((host) => isIP(host) === 0 && !host.includes('.'));
    const certificate = await x509.X509CertificateGenerator.createSelfSigned({
      serialNumber: serial(),
      name: `CN=Bright Cellar ${randomBytes(3).toString('hex')}`,
      notBefore: new Date(now.getTime() - DAY_MS),
      notAfter: new Date(now.getTime() + AUTHORITY_DAYS * DAY_MS),
      keys,
      signingAlgorithm: ALGORITHM,
      extensions: [
        new x509.BasicConstraintsExtension(true, 0, true),
        new x509.KeyUsagesExtension(
          x509.KeyUsageFlags.keyCertSign | x509.KeyUsageFlags.cRLSign,
          true,
        ),
        nameConstraints([...PRIVATE_NAMES, ...plain], PRIVATE_ADDRESSES),
        await x509.SubjectKeyIdentifierExtension.create(keys.publicKey),
      ],
    });
    this.#write('authority.key', await pemOf(keys.privateKey));
    this.#write('authority.crt', `${certificate.toString('pem')}\n`);
  }

  async #issue(hosts: readonly string[], now: Date): Promise<Certified> {
    const authority = new x509.X509Certificate(readFileSync(this.#path('authority.crt'), 'utf8'));
    const pem = readFileSync(this.#path('authority.key'), 'utf8');
    const signingKey = await webcrypto.subtle.importKey(
      'pkcs8',
      x509.PemConverter.decodeFirst(pem),
      ALGORITHM,
      false,
      ['sign'],
    );
    const keys = await webcrypto.subtle.generateKey(ALGORITHM, true, ['sign', 'verify']);
    const certificate = await x509.X509CertificateGenerator.create({
      serialNumber: serial(),
      subject: `CN=${hosts[0] ?? 'localhost'}`,
      issuer: authority.subject,
      notBefore: new Date(now.getTime() - DAY_MS),
      notAfter: new Date(now.getTime() + CERTIFICATE_DAYS * DAY_MS),
      publicKey: keys.publicKey,
      signingKey,
      signingAlgorithm: ALGORITHM,
      extensions: [
        new x509.BasicConstraintsExtension(false, undefined, true),
        new x509.KeyUsagesExtension(x509.KeyUsageFlags.digitalSignature, true),
        new x509.ExtendedKeyUsageExtension([x509.ExtendedKeyUsage.serverAuth]),
        new x509.SubjectAlternativeNameExtension(
          hosts.map((value) => ({ type: isIP(value) > 0 ? 'ip' : 'dns', value })),
        ),
        await x509.AuthorityKeyIdentifierExtension.create(authority),
      ],
    });
    const cert = `${certificate.toString('pem')}\n${authority.toString('pem')}\n`;
    return { cert, key: await pemOf(keys.privateKey) };
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

/** 16 bytes, of which the first is less than 128: a positive number (RFC 5280, 4.1.2.2). */
function serial(): string {
  const bytes = randomBytes(16);
  bytes.writeUInt8(bytes.readUInt8(0) & 0x7f, 0);
  return bytes.toString('hex');
}

async function pemOf(key: webcrypto.CryptoKey): Promise<string> {
  return `${x509.PemConverter.encode(await webcrypto.subtle.exportKey('pkcs8', key), 'PRIVATE KEY')}\n`;
}

/** RFC 5280, 4.2.1.10: a browser believes nothing else of what this authority signs. */
function nameConstraints(names: readonly string[], ranges: readonly string[]): x509.Extension {
  const permittedSubtrees = new GeneralSubtrees([
    ...names.map((dNSName) => new GeneralSubtree({ base: new GeneralName({ dNSName }) })),
    ...ranges.map(
      (range) =>
        new GeneralSubtree({
          base: new GeneralName({ iPAddress: range }),
        }),
    ),
  ]);
  const constraints = new NameConstraints({ permittedSubtrees });
  return new x509.Extension('2.5.29.30', true, AsnConvert.serialize(constraints));
}
