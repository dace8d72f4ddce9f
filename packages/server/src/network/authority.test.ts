import { execFileSync } from 'node:child_process';
import { X509Certificate } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { Authority, canVouchFor } from './authority.js';

const folder = mkdtempSync(join(tmpdir(), 'cellar-authority-'));
afterAll(() => rmSync(folder, { recursive: true }));
const NOW = new Date('2026-11-28T09:00:00Z');
const later = (days: number) => new Date(NOW.getTime() + days * 86_400_000);
const authority = new Authority(folder);
const hosts = ['counter', 'counter.local', '192.168.7.20', 'fd00::20'];

test('vouches for private names and addresses, and for nobody else', () => {
  for (const host of [...hosts, '10.1.2.3', '172.31.0.1', '127.0.0.1', 'a.lan', 'b.home.arpa'])
    expect(canVouchFor(host), host).toBe(true);
  for (const host of ['cellar.example', '8.8.4.4', '172.32.0.1', '2001:db8::1', 'local.example'])
    expect(canVouchFor(host), host).toBe(false);
});

test('a certificate that OpenSSL believes for these hosts, for a server, in keys for this user only', async () => {
  const { cert, key } = await authority.forHosts(hosts, NOW);
  const certificate = new X509Certificate(cert);
  const root = new X509Certificate(await authority.certificate(NOW, hosts));
  expect(certificate.checkIssued(root) && certificate.verify(root.publicKey)).toBe(true);
  expect([root.ca, certificate.ca]).toEqual([true, false]);
  for (const host of ['counter', 'counter.local']) expect(certificate.checkHost(host)).toBe(host);
  for (const host of ['192.168.7.20', 'fd00::20']) expect(certificate.checkIP(host)).toBe(host);
  expect(certificate.checkHost('other.local')).toBeUndefined();
  for (const name of ['authority.key', 'server.key'])
    expect(statSync(join(folder, name)).mode & 0o777).toBe(0o600);
  expect(key).toContain('PRIVATE KEY');
  const verify = (...args: string[]) =>
    execFileSync('openssl', ['verify', '-CAfile', join(folder, 'authority.crt'), ...args], {
      encoding: 'utf8',
    });
  const at = ['-attime', String(NOW.getTime() / 1000)];
  const strict = ['-x509_strict', '-purpose', 'sslserver'];
  expect(verify(...at, ...strict, join(folder, 'server.crt'))).toMatch(/: OK/);
});

test('the same until it is nearly over or for others; the authority stays', async () => {
  const first = await authority.forHosts(hosts, NOW);
  const root = await authority.certificate(NOW, hosts);
  expect((await authority.forHosts(hosts, later(50))).cert).toBe(first.cert);
  const renewed = await authority.forHosts(hosts, later(61));
  expect(renewed.cert).not.toBe(first.cert);
  expect((await authority.forHosts(['counter'], later(61))).cert).not.toBe(renewed.cert);
  expect(await authority.certificate(later(61), hosts)).toBe(root);
});

test('what it would sign for a name of the public network, nobody believes', async () => {
  const forged = await authority.forHosts(['bank.example'], NOW);
  const path = join(folder, 'forged.crt');
  writeFileSync(path, forged.cert);
  const root = join(folder, 'authority.crt');
  expect(() =>
    execFileSync('openssl', ['verify', '-attime', '1795860000', '-CAfile', root, path], {
      stdio: 'pipe',
    }),
  ).toThrow(/permitted subtree violation/);
  expect(readFileSync(root, 'utf8')).toContain('BEGIN CERTIFICATE');
});
