import { setTimeout as sleep } from 'node:timers/promises';
import type {
  ApiProblem,
  KnownVisits,
  LiveEvent,
  Operation,
  Rack,
  Session,
  ShopSettings,
} from '@bright-cellar/contract';
import { isOver, type OperationKind, type OperationResult } from '@bright-cellar/core';
import {
  wholeStock,
  type Stock,
  type StockPage,
  type StockRacks,
} from '@bright-cellar/core/placement';
import { eventually, SIGN_IN, type Product } from './product.js';

/** What came back: what was asked for, or a problem. Tests look at whichever they expect. */
export interface Answer<Body> {
  status: number;
  body: Body & Partial<ApiProblem>;
}

/** How an operation of a kind ended well; anything else fails the test. */
export function resultOf<Kind extends OperationKind>(
  operation: Operation,
  kind: Kind,
): OperationResult<Kind> {
  if (operation.kind !== kind || operation.result === null) {
    throw new Error(
      `no result of a ${kind}: ${operation.kind} ${operation.state}, ${operation.problem?.code}`,
    );
  }
  return operation.result as OperationResult<Kind>;
}

/** A file goes as it is. */
const asSent = (body: object | string | Uint8Array): string | Uint8Array<ArrayBuffer> =>
  typeof body === 'string'
    ? body
    : body instanceof Uint8Array
      ? new Uint8Array(body)
      : JSON.stringify(body);

/** A backup that was taken for a ticket of its own into a new archive, and read back. */
export interface ProvenBackup {
  ticket: string;
  archiveId: string;
  backupId: string;
}

/** Speaks the HTTP API as any other program would: cookie, CSRF token, JSON. */
export class Api {
  readonly #base: string;
  #cookies = new Map<string, string>();
  #csrf = '';

  constructor(product: Pick<Product, 'address'>) {
    this.#base = product.address;
  }

  static async signedIn(product: Product, who = SIGN_IN): Promise<Api> {
    const api = new Api(product);
    await api.signIn(who);
    return api;
  }

  /** The same session at another door: cookies do not tell ports apart. */
  at(address: string): Api {
    const other = new Api({ address });
    other.#cookies = new Map(this.#cookies);
    other.#csrf = this.#csrf;
    return other;
  }

  async signIn(body: {
    login: string;
    password: string;
    code?: string;
  }): Promise<Answer<Partial<Session>>> {
    const answer = await this.send<Partial<Session>>('POST', '/api/session', body);
    this.#csrf = answer.body.csrfToken ?? '';
    return answer;
  }

  /** A file, as it is. */
  sendText = <Body = unknown>(path: string, text: string): Promise<Answer<Body>> =>
    this.send('POST', path, text, { 'content-type': 'text/plain' });

  sendBytes = <Body = unknown>(
    path: string,
    bytes: Uint8Array,
    headers: Record<string, string> = { 'content-type': 'application/zip' },
  ): Promise<Answer<Body>> => this.send('POST', path, bytes, headers);

  async send<Body>(
    method: string,
    path: string,
    body?: object | string | Uint8Array,
    headers: Record<string, string> = {},
  ): Promise<Answer<Body>> {
    const response = await fetch(this.#base + path, {
      method,
      headers: {
        cookie: this.#cookie(),
        'x-csrf-token': this.#csrf,
        'content-type': 'application/json',
        ...headers,
      },
      ...(body ? { body: asSent(body) } : {}),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [, name = '', value = ''] = /^([^=]+)=([^;]*)/.exec(cookie) ?? [];
      if (value === '') this.#cookies.delete(name);
      else this.#cookies.set(name, value);
    }
    const text = await response.text();
    return { status: response.status, body: JSON.parse(text) as Answer<Body>['body'] };
  }

  /** As a browser sends them. */
  #cookie(): string {
    return [...this.#cookies].map(([name, value]) => `${name}=${value}`).join('; ');
  }

  /** An answer that is not JSON. */
  raw = (path: string, { headers = {} }: { headers?: Record<string, string> } = {}) =>
    fetch(this.#base + path, { headers: { cookie: this.#cookie(), ...headers } });
  get = <Body = unknown>(path: string) => this.send<Body>('GET', path);
  post = <Body = Operation>(path: string, body: object = {}) => this.send<Body>('POST', path, body);

  /** All of a list that is told a page at a time. */
  async all<Row>(path: string): Promise<Row[]> {
    const rows: Row[] = [];
    let after: string | null = '';
    while (after !== null) {
      const page: { rows: Row[]; next: string | null } = (
        await this.get<{ rows: Row[]; next: string | null }>(`${path}?after=${after}`)
      ).body;
      rows.push(...page.rows);
      after = page.next;
    }
    return rows;
  }

  /** Hears what browsers are told, until the server ends it. */
  async listen(on: (event: LiveEvent) => void): Promise<void> {
    const response = await fetch(`${this.#base}/api/events`, {
      headers: { cookie: this.#cookie() },
    });
    const decoder = new TextDecoder();
    let rest = '';
    const reader = response.body?.getReader();
    for (;;) {
      const piece = await reader?.read();
      if (!piece || piece.done) return;
      const events = (rest + decoder.decode(piece.value, { stream: true })).split('\n\n');
      rest = events.pop() ?? '';
      for (const event of events) {
        const data = /^data: ?(.*)$/m.exec(event)?.[1];
        if (data !== undefined) on(JSON.parse(data) as LiveEvent);
      }
    }
  }

  /** Changes some of the house rules. */
  async houseRules(change: Partial<ShopSettings>): Promise<Answer<ShopSettings>> {
    const { body } = await this.get<ShopSettings>('/api/settings');
    return this.send('PUT', '/api/settings', { ...body, ...change });
  }

  /** Opens a ticket for a device on the bench. @returns its number */
  async openTicket(deviceId: string, more: object = {}): Promise<string> {
    // Whoever came with it before comes again.
    const { body: known } = await this.get<Partial<KnownVisits>>(`/api/devices/${deviceId}/visits`);
    const { status, body } = await this.post<{ number: string }>('/api/tickets', {
      customer: known.customer
        ? { id: known.customer.id }
        : { name: 'Tamsin Orchardgate', phone: '+44 7700 900219', email: '' },
      device: { deviceId },
      otherOwnerConfirmed: true,
      reason: 'replacement',
      agreed: { backup: true, lookIn: false, escrow: false, keepDays: 30 },
      promisedAt: null,
      notes: '',
      ...more,
    });
    if (status !== 200) throw new Error(`no ticket: ${JSON.stringify(body)}`);
    return body.number;
  }

  /** Notes that the customer agreed to something. */
  agree = (ticket: string, kind = 'backup') =>
    this.post(`/api/tickets/${ticket}/agreements`, { kind, given: true, days: null });

  async startBackup(ticket: string, more: object = {}): Promise<Answer<Operation>> {
    const { body: racks } = await this.get<Rack[]>('/api/racks');
    return this.post(`/api/tickets/${ticket}/backups`, {
      mode: 'everything',
      choice: {},
      encrypted: true,
      accepted: [],
      fromDesk: false,
      rackId: racks[0]?.id,
      archiveId: null,
      password: 'brass kettle seven moths',
      passwordHolder: 'customer',
      reminder: '',
      ...more,
    });
  }

  /** The operation once it is over. @param atMostMs how long it may stand still */
  async ended(id: string, atMostMs?: number): Promise<Operation> {
    let told = '';
    // Nothing ends at once.
    await sleep(80);
    return eventually(
      'the end of an operation',
      async () => {
        // The server may be starting again just now.
        const answer = await this.get<Operation>(`/api/operations/${id}`).catch(() => null);
        if (answer?.status !== 200) return null;
        const { state, phase, doneBytes, doneItems } = answer.body;
        told = `${state} ${phase} ${doneBytes} ${doneItems}`;
        return isOver(state) ? answer.body : null;
      },
      atMostMs,
      () => told,
    );
  }

  /** What a move plan is made from. */
  async stock(): Promise<Stock> {
    const { body } = await this.get<StockRacks>('/api/moves/stock');
    return wholeStock(body, undefined, async (on, after) => {
      const page = `/api/moves/stock/archives?on=${on.join(',')}&after=${after}`;
      return (await this.get<StockPage>(page)).body;
    });
  }

  /** A rack, once it is known to be here or away. */
  async rackOnce(id: string | undefined, where: 'here' | 'away'): Promise<Rack> {
    return eventually(`a rack that is ${where}`, async () => {
      const { body: racks } = await this.get<Rack[]>('/api/racks');
      return racks.find((rack) => rack.id === id && rack.present === (where === 'here'));
    });
  }

  /** Takes and proves a backup of a device on the bench. */
  async provenBackup(deviceId: string): Promise<ProvenBackup> {
    const ticket = await this.openTicket(deviceId);
    const started = await this.startBackup(ticket);
    if (started.status !== 200) throw new Error(`not begun: ${JSON.stringify(started.body)}`);
    const backup = await this.ended(started.body.id);
    if (backup.state !== 'done') throw new Error(`no backup: ${JSON.stringify(backup.problem)}`);
    const proof = await this.post(`/api/backups/${backup.backupId}/proofs`, {
      level: 'full',
      password: 'brass kettle seven moths',
    });
    if (proof.status !== 200) throw new Error(`not begun: ${JSON.stringify(proof.body)}`);
    const proven = await this.ended(proof.body.id);
    if (proven.state !== 'done') throw new Error(`no proof: ${JSON.stringify(proven.problem)}`);
    return { ticket, archiveId: backup.archiveId ?? '', backupId: backup.backupId ?? '' };
  }
}
