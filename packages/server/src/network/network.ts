import { createPrivateKey, X509Certificate } from 'node:crypto';
import { once } from 'node:events';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { createServer as createPlain, type RequestListener, type Server } from 'node:http';
import { createServer as createSecure, type Server as SecureServer } from 'node:https';
import { hostname, networkInterfaces } from 'node:os';
import { join } from 'node:path';
import type { NetworkView } from '@bright-cellar/contract';
import {
  localHosts,
  Failure,
  inAddress,
  networkRulesSchema,
  type NetworkRules,
} from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import type { Config } from '../config.js';
import type { Database } from '../database/connect.js';
import { settings } from '../database/schema.js';
import { installationFolder } from '../kernel/installation.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { describeError, type Log } from '../log.js';
import type { Context } from '../shop.js';
import { Authority, canVouchFor, covers } from './authority.js';
import type { Certified } from './certified.js';

const NETWORK = 'network';
const LOOK_EVERY_MS = 6 * 3_600_000;
const LOOPBACK = '127.0.0.1';

/** What is heard on the network: whoever sits here on loopback, others over TLS, and customers on a door of their own. */
interface Doors {
  /** The application. */
  shop: RequestListener;
  /** The customer’s page, and nothing else. */
  desk: RequestListener;
}

/** Where this computer listens, for whom, and with which certificate. Follows what the house decides without a restart. */
export class Network {
  readonly #db: Database;
  readonly #log: Log;
  readonly #config: Pick<Config, 'port' | 'tlsPort' | 'deskPort'>;
  readonly #authority = new Authority(installationFolder('tls'));
  #rules: NetworkRules = { mode: 'alone' };
  #certified: Certified | null = null;
  #doors: Doors | null = null;
  #local: Server | null = null;
  #tls: SecureServer | null = null;
  #desk: Server | SecureServer | null = null;
  #timer: NodeJS.Timeout | null = null;

  constructor(db: Database, log: Log, config: Pick<Config, 'port' | 'tlsPort' | 'deskPort'>) {
    this.#db = db;
    this.#log = log;
    this.#config = config;
  }

  /** @returns the ports on loopback: of the application, and of the customer’s page */
  async open(doors: Doors): Promise<{ port: number; deskPort: number }> {
    this.#doors = doors;
    this.#local = createPlain(doors.shop);
    const port = await listening(this.#local, this.#config.port, LOOPBACK);
    this.#rules = await readRules(this.#db);
    await this.#apply();
    const look = () =>
      void this.#renew().catch((error: unknown) =>
        this.#log.error({ error: describeError(error) }, 'the certificate could not be renewed'),
      );
    this.#timer = setInterval(look, LOOK_EVERY_MS);
    this.#timer.unref();
    return { port, deskPort: portOf(this.#desk) };
  }

  async close(): Promise<void> {
    if (this.#timer) clearInterval(this.#timer);
    await Promise.all([this.#local, this.#tls, this.#desk].map(closed));
  }

  /** A page of somebody else’s can lead its own name here: only names under which this computer is known are answered. */
  isOwn(host: string): boolean {
    const name = host.replace(/:\d{1,5}$/, '').toLowerCase();
    if (localHosts.includes(name)) return true;
    switch (this.#rules.mode) {
      case 'alone':
        return false;
      case 'proxy':
        return [this.#rules.address, this.#rules.deskAddress].some(
          (address) => new URL(address).host === host,
        );
      default:
        return this.#rules.hosts.some((one) => inAddress(one) === name);
    }
  }

  /** Whether what a proxy on this computer says of a request is believed. */
  readonly believesProxy = (address: string): boolean =>
    this.#rules.mode === 'proxy' && /^(?:::ffff:)?127\.|^::1$/.test(address);

  /** Where customers’ own phones find the page for their password. @throws Failure `not-safe-here` where only this computer does */
  deskAddress(): string {
    switch (this.#rules.mode) {
      case 'alone':
        return `http://${LOOPBACK}:${portOf(this.#desk)}`;
      case 'proxy':
        return new URL(this.#rules.deskAddress).origin;
      default:
        return `https://${inAddress(this.#rules.hosts[0] ?? '')}:${portOf(this.#desk)}`;
    }
  }

  /** The certificate of the own authority, for other computers to trust; PEM. */
  async authorityCertificate(): Promise<string> {
    const { mode } = this.#rules;
    if (mode !== 'own') throw new Failure('not-found');
    return this.#authority.certificate(new Date(), this.#rules.hosts);
  }

  /** The certificate that is spoken with; null where TLS is not spoken here. */
  certificate(): { until: Date; uncovered: string[] } | null {
    if (!this.#certified) return null;
    const certificate = new X509Certificate(this.#certified.cert);
    const hosts = 'hosts' in this.#rules ? this.#rules.hosts : [];
    return {
      until: new Date(certificate.validTo),
      uncovered: hosts.filter((host) => !covers(certificate, host)),
    };
  }

  async view(): Promise<NetworkView> {
    const rules = this.#rules;
    const hosts = 'hosts' in rules ? rules.hosts : [];
    const certificate = this.#certified && new X509Certificate(this.#certified.cert);
    const authority =
      rules.mode === 'own' ? new X509Certificate(await this.authorityCertificate()) : null;
    return {
      rules,
      addresses:
        rules.mode === 'proxy'
          ? [rules.address]
          : hosts.map((host) => `https://${inAddress(host)}:${portOf(this.#tls)}`),
      deskAddress: this.deskAddress(),
      localPorts: { shop: portOf(this.#local), desk: portOf(this.#desk) },
      suggested: ownHosts(),
      certificate: certificate && {
        until: new Date(certificate.validTo).toISOString(),
        fingerprint: certificate.fingerprint256,
        uncovered: hosts.filter((host) => !covers(certificate, host)),
      },
      authority: authority && {
        until: new Date(authority.validTo).toISOString(),
        fingerprint: authority.fingerprint256,
      },
    };
  }

  /**
   * Listens otherwise from now on. Who came in by a door that is shut by it is cut off.
   * @throws Failure `input-not-valid` where it cannot be: then it is as before
   */
  async change(context: Context, rules: NetworkRules): Promise<void> {
    if (rules.mode === 'own') mustBePrivate(rules.hosts);
    if (rules.mode === 'given' && this.#given() === null) throw noCertificate();
    const before = this.#rules;
    try {
      this.#rules = rules;
      await this.#apply();
      await unitOfWork(context, async (unit) => {
        await unit.tx
          .insert(settings)
          .values({ name: NETWORK, value: rules })
          .onDuplicateKeyUpdate({ set: { value: rules } });
        unit.note({ action: 'network-changed', what: whatOf(rules) });
        unit.changed('settings');
      });
    } catch (error) {
      this.#rules = before;
      await this.#apply();
      throw isPortTaken(error)
        ? new Failure('input-not-valid', {
            what: 'Something else on this computer listens there already.',
            safe: 'Nothing was changed.',
            next: 'Stop it, or start this program with another --port.',
          })
        : error;
    }
  }

  /** Keeps a certificate that somebody gave. @throws Failure `input-not-valid` where it is none, or its key is another’s */
  async give(context: Context, { cert, key }: Certified): Promise<void> {
    mustBelongTogether(cert, key);
    const folder = installationFolder('tls');
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    for (const [name, text] of [
      ['given.key', key],
      ['given.crt', cert],
    ] as const) {
      const path = join(folder, name);
      writeFileSync(`${path}.part`, text, { mode: 0o600, flush: true });
      renameSync(`${path}.part`, path);
    }
    await unitOfWork(context, async (unit) => {
      unit.note({ action: 'network-changed', what: 'A certificate for TLS was given.' });
      unit.changed('settings');
    });
    await this.#renew();
  }

  async #apply(): Promise<void> {
    const doors = this.#doors;
    if (!doors) return;
    const { mode } = this.#rules;
    const isSecure = mode === 'own' || mode === 'given';
    this.#certified = await this.#certificate();
    const { tlsPort, deskPort } = this.#config;
    if (!isSecure) await closed(this.#tls);
    if (isSecure && this.#certified) {
      if (this.#tls?.listening) this.#tls.setSecureContext(this.#certified);
      else {
        this.#tls = createSecure({ ...this.#certified, minVersion: 'TLSv1.2' }, doors.shop);
        await listening(this.#tls, tlsPort);
      }
    }
    // The customer’s door speaks TLS where others come in, and is for this computer alone where nobody does.
    const port = portOf(this.#desk) || deskPort;
    if (this.#desk && 'setSecureContext' in this.#desk && isSecure && this.#certified) {
      this.#desk.setSecureContext(this.#certified);
      return;
    }
    if (this.#desk && !('setSecureContext' in this.#desk) && !isSecure) return;
    await closed(this.#desk);
    if (isSecure && this.#certified) {
      this.#desk = createSecure({ ...this.#certified, minVersion: 'TLSv1.2' }, doors.desk);
      await listening(this.#desk, port);
    } else {
      this.#desk = createPlain(doors.desk);
      await listening(this.#desk, port, LOOPBACK);
    }
  }

  /** Takes up another certificate where there is one, without anybody noticing. */
  async #renew(): Promise<void> {
    const certified = await this.#certificate();
    if (certified === null || certified.cert === this.#certified?.cert) return;
    this.#certified = certified;
    for (const server of [this.#tls, this.#desk]) {
      if (server && 'setSecureContext' in server) server.setSecureContext(certified);
    }
  }

  async #certificate(): Promise<Certified | null> {
    if (this.#rules.mode === 'own') return this.#authority.forHosts(this.#rules.hosts, new Date());
    return this.#rules.mode === 'given' ? this.#given() : null;
  }

  #given(): Certified | null {
    const folder = installationFolder('tls');
    const [cert, key] = [join(folder, 'given.crt'), join(folder, 'given.key')];
    if (!existsSync(cert) || !existsSync(key)) return null;
    return { cert: readFileSync(cert, 'utf8'), key: readFileSync(key, 'utf8') };
  }
}

async function readRules(db: Database): Promise<NetworkRules> {
  const [row] = await db.select().from(settings).where(eq(settings.name, NETWORK));
  return networkRulesSchema.safeParse(row?.value).data ?? { mode: 'alone' };
}

/** Names and addresses that this computer has now. */
function ownHosts(): string[] {
  const addresses = Object.values(networkInterfaces())
    .flat()
    .filter((one) => one !== undefined && !one.internal && !one.address.startsWith('fe80'))
    .map((one) => one?.address ?? '');
  const name = hostname().toLowerCase();
  return [...(name.includes('.') ? [name] : [name, `${name}.local`]), ...addresses];
}

function mustBePrivate(hosts: readonly string[]): void {
  const other = hosts.find((host) => !canVouchFor(host));
  if (other === undefined) return;
  throw new Failure('input-not-valid', {
    what: `The shop’s own authority cannot vouch for ${other}: only for names and addresses that nobody on the public network has.`,
    safe: 'Nothing was changed.',
    next: 'Use a name that ends with .local, .lan or .internal, or a private address; or give a certificate for that name.',
  });
}

const noCertificate = () =>
  new Failure('input-not-valid', {
    what: 'No certificate was given yet.',
    safe: 'Nothing was changed.',
    next: 'Paste it and its key first.',
  });

/** @throws Failure `input-not-valid` */
function mustBelongTogether(cert: string, key: string): void {
  try {
    const certificate = new X509Certificate(cert);
    if (!certificate.checkPrivateKey(createPrivateKey(key))) throw new Error('another’s');
    if (Date.parse(certificate.validTo) < Date.now()) throw new Error('over');
  } catch (error) {
    throw new Failure(
      'input-not-valid',
      {
        what: 'That is no certificate and its own key, or its time is over.',
        safe: 'Nothing was changed.',
        next: 'Paste both as PEM: the certificate with those that follow it, and the key without a password.',
      },
      { cause: error },
    );
  }
}

/** For the record. */
function whatOf(rules: NetworkRules): string {
  switch (rules.mode) {
    case 'alone':
      return 'Only this computer reaches the program from now on.';
    case 'proxy':
      return `The program is reached through a proxy from now on, as ${rules.address}.`;
    default:
      return `Other computers reach the program from now on, as ${rules.hosts.join(', ')}.`;
  }
}

const isPortTaken = (error: unknown) =>
  error instanceof Error && 'code' in error && error.code === 'EADDRINUSE';

function portOf(server: Server | SecureServer | null): number {
  const address = server?.address();
  return typeof address === 'object' && address !== null ? address.port : 0;
}

/** @param host every address of this computer where not said. @returns the port, which is another one when 0 was asked for */
async function listening(
  server: Server | SecureServer,
  port: number,
  host?: string,
): Promise<number> {
  // A caller may ask again just when the usual five seconds are over, and find the door shut on it.
  server.keepAliveTimeout = 65_000;
  server.listen(port, host);
  await once(server, 'listening');
  return portOf(server);
}

async function closed(server: Server | SecureServer | null): Promise<void> {
  if (!server?.listening) return;
  const ended = new Promise((resolve) => server.close(resolve));
  server.closeAllConnections();
  await ended;
}
