import 'reflect-metadata';
import { randomBytes, webcrypto } from 'node:crypto';
import { isIP } from 'node:net';
import { AsnConvert } from '@peculiar/asn1-schema';
import { GeneralName, GeneralSubtree, GeneralSubtrees, NameConstraints } from '@peculiar/asn1-x509';
import * as x509 from '@peculiar/x509';
import { DAY_MS, PRIVATE_ADDRESSES, PRIVATE_NAMES, type Certified } from './certified.js';

// Loading what this stands on takes a third of the server's start: it is loaded when a certificate is made.

const AUTHORITY_DAYS = 3650;
const CERTIFICATE_DAYS = 90;
const ALGORITHM = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' };

/** An authority that can vouch for private names and addresses, and for the plain names among the hosts. */
export async function makeAuthority(now: Date, hosts: readonly string[]): Promise<Certified> {
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
  return { cert: `${certificate.toString('pem')}\n`, key: await pemOf(keys.privateKey) };
}

/** A certificate for some hosts, signed by an authority that stands in its chain. */
export async function issue(
  by: Certified,
  hosts: readonly string[],
  now: Date,
): Promise<Certified> {
  const authority = new x509.X509Certificate(by.cert);
  const signingKey = await webcrypto.subtle.importKey(
    'pkcs8',
    x509.PemConverter.decodeFirst(by.key),
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
