import { execFileSync, spawnSync } from 'node:child_process';
import { X509Certificate } from 'node:crypto';
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { request, type IncomingHttpHeaders } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NetworkView } from '@bright-cellar/contract';
import type { NetworkRules } from '@bright-cellar/core';
import { chromium } from '@playwright/test';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Shop } from '../open-shop.js';
import { SIGN_IN } from '../product.js';

/** Two computers: the counter's, and another that is reached over a cable of its own (a network namespace). Needs root. */
export const twoComputers = ({ product, api }: Shop) =>
  describe('over the network', () => {
    const folder = mkdtempSync(join(tmpdir(), 'cellar-other-computer-'));
    const OTHER = `cellar-${process.pid}`;
    const subnet = `10.${100 + (process.pid % 100)}.${Math.floor(process.pid / 100) % 250}`;
    const HERE = `${subnet}.1`;
    const ip = (...args: string[]) => execFileSync('ip', args, { stdio: 'pipe' });
    const cable = [`ch${process.pid}`, `co${process.pid}`] as const;
    beforeAll(() => {
      ip('netns', 'add', OTHER);
      ip('link', 'add', cable[0], 'type', 'veth', 'peer', 'name', cable[1]);
      ip('link', 'set', cable[1], 'netns', OTHER);
      // No address by itself: it would come two seconds later, and a browser drops what it loads when one does.
      ip('link', 'set', cable[0], 'addrgenmode', 'none');
      ip('-n', OTHER, 'link', 'set', cable[1], 'addrgenmode', 'none');
      ip('addr', 'add', `${HERE}/24`, 'dev', cable[0]);
      ip('link', 'set', cable[0], 'up');
      ip('-n', OTHER, 'addr', 'add', `${subnet}.2/24`, 'dev', cable[1]);
      ip('-n', OTHER, 'link', 'set', cable[1], 'up');
      ip('-n', OTHER, 'link', 'set', 'lo', 'up');
    });
    afterAll(() => {
      ip('netns', 'delete', OTHER);
      rmSync(folder, { recursive: true, force: true });
    });

    const change = async (rules: NetworkRules) => {
      const answer = await api.send<NetworkView>('PUT', '/api/network', rules);
      expect(answer.status, JSON.stringify(answer.body)).toBe(200);
      return answer.body;
    };
    /** As another computer does. @returns what it got; the reason where it got nothing */
    const curl = (...args: string[]) => {
      const all = ['netns', 'exec', OTHER, 'curl', '-sS', '--max-time', '5', '-i', ...args];
      const { stdout, stderr } = spawnSync('ip', all, { encoding: 'utf8' });
      return stdout || stderr;
    };
    /** On loopback, as whoever this says that they are. */
    const locally = (path: string, headers: IncomingHttpHeaders, body?: string) =>
      new Promise<{ status: number; headers: IncomingHttpHeaders }>((resolve, reject) => {
        const { hostname, port } = new URL(product.address);
        const asked = request(
          { hostname, port, path, method: body ? 'POST' : 'GET', headers },
          (answer) => {
            answer.resume();
            resolve({ status: answer.statusCode ?? 0, headers: answer.headers });
          },
        );
        asked.once('error', reject);
        asked.end(body);
      });
    const root = join(folder, 'authority.crt');
    let view: NetworkView;
    let port = '';

    test('nobody else reaches a shop that has not opened its door', () => {
      expect(curl(`${product.address.replace('127.0.0.1', HERE)}/healthz`)).toMatch(
        /Failed to connect|refused/,
      );
    });

    describe('with certificates of its own', () => {
      test('another computer that trusts its authority is let in; one that does not, or asks for another name, is not', async () => {
        view = await change({ mode: 'own', hosts: [HERE, 'counter-test.local'] });
        const [address = ''] = view.addresses;
        ({ port } = new URL(address));
        writeFileSync(root, await (await fetch(`${product.address}/authority.crt`)).text());
        expect(new X509Certificate(readFileSync(root)).fingerprint256).toBe(
          view.authority?.fingerprint,
        );
        expect(curl('--cacert', root, `${address}/healthz`)).toMatch(
          /^HTTP\/1.1 200.*[^]*"ok":true/,
        );
        expect(curl(`${address}/healthz`)).toMatch(
          /self-signed certificate|unable to get local issuer/,
        );
        const named = (name: string) => [
          '--resolve',
          `${name}:${port}:${HERE}`,
          `https://${name}:${port}/healthz`,
        ];
        expect(curl('--cacert', root, ...named('counter-test.local'))).toContain('"ok":true');
        expect(curl('--cacert', root, ...named('elsewhere.local'))).toMatch(
          /no alternative certificate subject name matches/,
        );
        // Who believes anything still gets nothing under another name.
        expect(curl('-k', ...named('elsewhere.local'))).toMatch(/^HTTP\/1.1 403/);
        expect(curl(`http://${HERE}:${port}/healthz`)).not.toContain('ok');
        expect(curl('--tls-max', '1.1', '--cacert', root, `${address}/healthz`)).toMatch(
          /protocol|handshake|version/i,
        );
      });

      test('what it sets is for TLS only, and browsers are told to insist on it', () => {
        const signIn = curl(
          ...[
            '--cacert',
            root,
            '-H',
            'content-type: application/json',
            '-d',
            JSON.stringify(SIGN_IN),
          ],
          `${view.addresses[0]}/api/session`,
        );
        expect(signIn).toMatch(/^strict-transport-security: max-age=31536000/im);
        const [cookie = ''] = /^set-cookie: .*$/im.exec(signIn) ?? [];
        for (const part of [
          '__Host-cellar_session=',
          'Secure',
          'HttpOnly',
          'SameSite=Strict',
          'Path=/',
        ])
          expect(cookie).toContain(part);
        expect(cookie).not.toContain('Domain');
      });

      test('customers come in by a door of their own, over TLS too', () => {
        const page = `/desk/${'A'.repeat(22)}`;
        expect(new URL(view.deskAddress).port).not.toBe(port);
        expect(curl('--cacert', root, `${view.deskAddress}${page}`)).toMatch(
          /^HTTP\/1.1 200[^]*<html/,
        );
        expect(curl('--cacert', root, `${view.deskAddress}/api/session`)).toMatch(/^HTTP\/1.1 404/);
        expect(curl(`${view.deskAddress.replace('https', 'http')}${page}`)).not.toContain('<html');
      });

      test('a browser on the other computer works in it, and warns of a wrong name', async () => {
        const home = join(folder, 'home');
        const store = join(home, '.pki/nssdb');
        mkdirSync(store, { recursive: true });
        execFileSync('certutil', ['-d', `sql:${store}`, '-N', '--empty-password']);
        execFileSync('certutil', [
          '-d',
          `sql:${store}`,
          '-A',
          '-t',
          'C,,',
          '-n',
          'shop',
          '-i',
          root,
        ]);
        const program = join(folder, 'browser');
        writeFileSync(
          program,
          `#!/bin/sh\nexec ip netns exec ${OTHER} /usr/bin/chromium-headless-shell "$@"\n`,
        );
        chmodSync(program, 0o755);
        const browser = await chromium.launch({
          executablePath: program,
          args: ['--no-sandbox', '--disable-gpu', `--host-resolver-rules=MAP *.local ${HERE}`],
          env: { ...process.env, HOME: home },
        });
        try {
          const page = await browser.newPage();
          await page.goto(`https://counter-test.local:${port}/`);
          await page.getByLabel('Name').fill(SIGN_IN.login);
          await page.getByLabel('Password').fill(SIGN_IN.password);
          await page.keyboard.press('Enter');
          await page.getByRole('link', { name: 'Racks' }).click();
          await page.getByRole('heading', { name: 'Racks', level: 1 }).waitFor();
          const [cookie] = await page.context().cookies();
          expect(cookie).toMatchObject({ name: '__Host-cellar_session', secure: true });
          await expect(page.goto(`https://elsewhere.local:${port}/`)).rejects.toThrow(
            /ERR_CERT_COMMON_NAME_INVALID/,
          );
        } finally {
          await browser.close();
        }
      });

      test('its authority vouches for nothing outside the shop', async () => {
        const answer = await api.send('PUT', '/api/network', {
          mode: 'own',
          hosts: ['bank.example'],
        });
        expect(answer.body).toMatchObject({ code: 'input-not-valid' });
        expect((await api.get<NetworkView>('/api/network')).body.rules).toEqual(view.rules);
      });
    });

    test('with a certificate that somebody gave', async () => {
      const [cert, key] = [join(folder, 'own.crt'), join(folder, 'own.key')];
      execFileSync(
        'openssl',
        [
          ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes'],
          ...[
            '-days',
            '30',
            '-subj',
            '/CN=cellar.example',
            '-addext',
            'subjectAltName=DNS:cellar.example',
          ],
          ...['-keyout', key, '-out', cert],
        ],
        { stdio: 'pipe' },
      );
      const give = (body: object) => api.send('PUT', '/api/network/certificate', body);
      const pem = { cert: readFileSync(cert, 'utf8'), key: readFileSync(key, 'utf8') };
      const early = await api.send('PUT', '/api/network', {
        mode: 'given',
        hosts: ['cellar.example'],
      });
      expect(early.body).toMatchObject({ what: 'No certificate was given yet.' });
      expect((await give({ ...pem, cert: readFileSync(root, 'utf8') })).body).toMatchObject({
        code: 'input-not-valid',
      });
      expect((await give(pem)).status).toBe(200);
      const now = await change({ mode: 'given', hosts: ['cellar.example', HERE] });
      expect(now.certificate?.uncovered).toEqual([HERE]);
      const to = [
        '--resolve',
        `cellar.example:${port}:${HERE}`,
        `https://cellar.example:${port}/healthz`,
      ];
      expect(curl('--cacert', cert, ...to)).toContain('"ok":true');
      const log = readFileSync(join(product.data, 'logs/server.log'), 'utf8');
      expect(log).not.toContain('PRIVATE KEY');
      expect(JSON.stringify((await api.get('/api/audit')).body)).not.toContain('PRIVATE KEY');
    });

    test('through a proxy on this computer, whose word counts only then', async () => {
      const body = JSON.stringify(SIGN_IN);
      const through = (host: string, proto = 'https') =>
        locally(
          '/api/session',
          {
            host,
            'x-forwarded-proto': proto,
            'content-type': 'application/json',
            'content-length': String(body.length),
          },
          body,
        );
      const rules = { address: 'https://cellar.example', deskAddress: 'https://code.example' };
      const now = await change({ mode: 'proxy', ...rules });
      expect(now.deskAddress).toBe('https://code.example');
      const answer = await through('cellar.example');
      expect(answer.status).toBe(200);
      expect(String(answer.headers['set-cookie'])).toMatch(/__Host-cellar_session=.*Secure/);
      expect(curl('-k', `https://${HERE}:${port}/healthz`)).toMatch(/Failed to connect|refused/);
      await change({ mode: 'alone' });
      expect((await through('cellar.example')).status).toBe(403);
      const local = await through(new URL(product.address).host);
      expect(String(local.headers['set-cookie'])).toMatch(/^cellar_session=/);
    });
  });
