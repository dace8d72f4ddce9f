import { linkDeviceSchema } from '@bright-cellar/core';
import { once } from 'node:events';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { deviceFacts } from '@bright-cellar/core/testing';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { DeviceLink } from './client.js';
import { ENTRY_HEADER, LinkError, type Entry } from './protocol.js';

const DEVICE = linkDeviceSchema.parse('device-1');

/** An adapter that answers as each test tells it, good or bad. */
type Behaviour = (request: IncomingMessage, response: ServerResponse) => void;
let server: Server;
let link: DeviceLink;
/** The same, but quick to call a device silent. */
let impatient: DeviceLink;
let behave: Behaviour;
let requests: { method: string; url: string; headers: IncomingMessage['headers'] }[];

beforeEach(async () => {
  requests = [];
  server = createServer((request, response) => {
    const { method = '', url = '', headers } = request;
    requests.push({ method, url, headers });
    behave(request, response);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  const address = `http://127.0.0.1:${port}/`;
  link = new DeviceLink({ address, token: 'secret', idleMs: 10_000, pauseMs: 10 });
  impatient = new DeviceLink({ address, token: 'secret', idleMs: 300, pauseMs: 10 });
});
afterEach(async () => {
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
});

const json = (response: ServerResponse, body: unknown, status = 200) => {
  response.writeHead(status, { 'content-type': 'application/json' });
  response.end(JSON.stringify(body));
};
const entry = (bytes: number): Entry => ({
  id: 'entry-1',
  class: 'notes',
  group: '',
  format: null,
  kind: 'file',
  path: 'notes/private name.md',
  bytes,
  modified: '2026-01-02T03:04:05.000Z',
  mode: null,
  revision: 'r1',
});

async function read(bytes: number, signal?: AbortSignal): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  for await (const piece of link.read(DEVICE, entry(bytes), signal)) pieces.push(piece);
  return Buffer.concat(pieces);
}
const refusal = (work: Promise<unknown>) =>
  work.then(
    () => 'none',
    (error: unknown) => (error instanceof LinkError ? error.code : String(error)),
  );

/** Gives out contents by range, and breaks the connection after each of the given amounts. */
function breaking(contents: Buffer, cuts: number[]): Behaviour {
  return (request, response) => {
    if (!request.url?.includes('/content')) {
      json(response, deviceFacts());
      return;
    }
    const from = Number(/^bytes=(\d+)-$/.exec(request.headers.range ?? '')?.[1] ?? 0);
    const cut = cuts.shift();
    response.writeHead(from > 0 ? 206 : 200, {
      'content-length': contents.length - from,
      etag: '"r1"',
    });
    if (cut === undefined) {
      response.end(contents.subarray(from));
      return;
    }
    response.write(contents.subarray(from, from + cut), () => {
      // Whatever was written is on its way before the cable is pulled.
      setTimeout(() => response.destroy(), 20);
    });
  };
}

describe('reading', () => {
  test('goes on where it broke, and what comes out is the whole', async () => {
    const cutPoints = fc.array(fc.integer({ min: 1, max: 4000 }), { maxLength: 3 });
    await fc.assert(
      fc.asyncProperty(cutPoints, fc.integer({ min: 0, max: 9000 }), async (cuts, size) => {
        const contents = Buffer.from(Array.from({ length: size }, (_, i) => (i * 7) % 256));
        behave = breaking(contents, [...cuts]);
        expect((await read(size)).equals(contents)).toBe(true);
      }),
      { numRuns: 8 },
    );
  });

  test('asks for the rest by range, always for the revision that was listed', async () => {
    behave = breaking(Buffer.alloc(1000), [400]);
    await read(1000);
    const asked = requests.filter((r) => r.url.includes('/content'));
    expect(asked.map((r) => r.headers.range)).toEqual([undefined, 'bytes=400-']);
    expect(asked.map((r) => r.headers['if-match'])).toEqual(['"r1"', '"r1"']);
    for (const { headers, url } of requests) {
      expect(headers.authorization).toBe('Bearer secret');
      expect(decodeURIComponent(url)).not.toContain('private name');
    }
  });

  test('gives up when the device is gone, without trying again', async () => {
    behave = (request, response) => {
      if (request.url?.includes('/content')) response.destroy();
      else json(response, { error: 'no-such-device' }, 404);
    };
    expect(await refusal(read(10))).toBe('no-such-device');
  });

  test('a device that is slow to say that it is still there is given another try', async () => {
    const contents = Buffer.alloc(1000, 9);
    const well = breaking(contents, [400]);
    let asked = 0;
    behave = (request, response) => {
      if (!request.url?.includes('/content') && (asked += 1) === 1) response.destroy();
      else well(request, response);
    };
    expect((await read(1000)).equals(contents)).toBe(true);
    expect(asked).toBe(2);
  });

  test('gives up after a few tries when there is never an answer', async () => {
    behave = (request, response) => {
      if (request.url?.includes('/content')) response.destroy();
      else json(response, deviceFacts());
    };
    expect(await refusal(read(10))).toBe('no-answer');
    expect(requests.filter((r) => r.url.includes('/content'))).toHaveLength(4);
  });

  test('more bytes than were listed are a change, not contents', async () => {
    let sent = 0;
    behave = (_request, response) => {
      response.setHeader('etag', '"r1"');
      const more = () => {
        if (response.destroyed || (sent += 65_536) > 400e6) return void response.end();
        response.write(Buffer.alloc(65_536), () => setImmediate(more));
      };
      more();
    };
    expect(await refusal(read(10))).toBe('changed');
    // It is not read to its end to find out.
    expect(sent).toBeLessThan(100e6);
  });

  test('contents that are not said to be those that were listed are not believed', async () => {
    for (const etag of [undefined, '"r2"', 'r1']) {
      behave = (_request, response) => {
        if (etag) response.setHeader('etag', etag);
        response.end(Buffer.alloc(10));
      };
      expect(await refusal(read(10)), String(etag)).toBe('changed');
    }
  });

  test.each(['changed', 'read-error', 'locked'] as const)(
    'a refusal, %s, is passed on as it is',
    async (code) => {
      behave = (_request, response) => json(response, { error: code }, 409);
      expect(await refusal(read(10))).toBe(code);
      expect(requests).toHaveLength(1);
    },
  );

  test('a consumer that takes its time is not mistaken for a silent device', async () => {
    const contents = Buffer.alloc(300_000, 5);
    behave = (_request, response) => {
      response.setHeader('etag', '"r1"');
      response.end(contents);
    };
    let bytes = 0;
    for await (const piece of impatient.read(DEVICE, entry(contents.length))) {
      if (bytes === 0) await new Promise((resolve) => setTimeout(resolve, 500));
      bytes += piece.length;
    }
    expect(bytes).toBe(contents.length);
    expect(requests).toHaveLength(1);
  });

  test('stops at once when it is told to', async () => {
    behave = (_request, response) => {
      response.writeHead(200, { 'content-length': 1000, etag: '"r1"' });
      response.write(Buffer.alloc(10));
    };
    const stop = new AbortController();
    setTimeout(() => stop.abort(new Error('enough')), 50);
    await expect(read(1000, stop.signal)).rejects.toThrow('enough');
  });

  describe('while its request has lost the signal it was given', () => {
    beforeEach(() => {
      const asked = globalThis.fetch;
      vi.stubGlobal('fetch', (url: string, init: RequestInit) =>
        asked(url, { ...init, signal: null }),
      );
      behave = (request, response) => {
        if (!request.url?.includes('/content')) return;
        response.writeHead(200, { 'content-length': 1000, etag: '"r1"' });
        response.write(Buffer.alloc(10));
      };
    });
    afterEach(() => void vi.unstubAllGlobals());

    test('stops all the same when it is told to, and leaves the connection', async () => {
      const left = once(server, 'request').then(([, response]) =>
        once(response as ServerResponse, 'close'),
      );
      const stop = new AbortController();
      setTimeout(() => stop.abort(new Error('enough')), 50);
      await expect(read(1000, stop.signal)).rejects.toThrow('enough');
      await left;
    });

    test('a device that falls silent is given up all the same', async () => {
      const pieces = impatient.read(DEVICE, entry(1000));
      expect(await refusal(pieces.next().then(() => pieces.next()))).toBe('no-answer');
    });
  });
});

describe('answers that are none', () => {
  test.each<[string, Behaviour]>([
    ['silence', () => undefined],
    ['a closed connection', (_request, response) => response.destroy()],
    ['rubbish', (_request, response) => response.end('<html>')],
    ['facts that are not facts', (_request, response) => json(response, { id: 'x' })],
    ['an error nobody knows', (_request, response) => json(response, { error: 'sunspots' }, 500)],
  ])('%s', async (_, how) => {
    behave = how;
    expect(await refusal(impatient.facts(DEVICE))).toBe('no-answer');
  });
});

describe('listing', () => {
  test('follows the cursor to the end, and no further', async () => {
    behave = (request, response) => {
      const after = new URL(request.url ?? '', 'http://x').searchParams.get('after');
      const page = after === '' ? 0 : Number(after);
      json(response, {
        entries: [{ ...entry(1), id: `e${page}` }],
        next: page < 3 ? String(page + 1) : null,
      });
    };
    const ids: string[] = [];
    for await (const found of link.entries(DEVICE, 'notes')) ids.push(found.id);
    expect(ids).toEqual(['e0', 'e1', 'e2', 'e3']);
  });

  test('entries with an id or a class that is not one are not believed', async () => {
    behave = (_request, response) =>
      json(response, { entries: [{ ...entry(1), id: '../../etc' }], next: null });
    const list = async () => {
      for await (const found of link.entries(DEVICE, 'notes')) expect(found).toBeNull();
    };
    expect(await refusal(list())).toBe('no-answer');
  });
});

describe('what never ends', () => {
  const listed = async () => {
    let count = 0;
    for await (const found of link.entries(DEVICE, 'notes')) count += found.bytes;
    return count;
  };

  test('a listing whose pages are empty and go on is refused', async () => {
    behave = (_request, response) => json(response, { entries: [], next: 'more' });
    expect(await refusal(listed())).toBe('not-valid');
  });

  test('an answer that is longer than any is broken off', async () => {
    let sent = 0;
    behave = (_request, response) => {
      const more = () => {
        if (response.destroyed || (sent += 2 ** 20) > 200e6) return void response.end();
        response.write(Buffer.alloc(2 ** 20, '"'), () => setImmediate(more));
      };
      more();
    };
    expect(await refusal(link.facts(DEVICE))).toBe('no-answer');
    expect(sent).toBeLessThan(100e6);
  });

  test('a line of events that is longer than any ends the stream', async () => {
    let sent = 0;
    behave = (_request, response) => {
      const more = () => {
        if (response.destroyed || (sent += 2 ** 20) > 200e6) return void response.end();
        response.write(Buffer.alloc(2 ** 20, 'x'), () => setImmediate(more));
      };
      more();
    };
    const watching = (async () => {
      for await (const event of link.events(new AbortController().signal)) expect(event).toBeNull();
    })();
    expect(await refusal(watching)).toBe('no-answer');
    expect(sent).toBeLessThan(100e6);
  });
});

describe('writing', () => {
  test('sends the name beside the bytes, never in the address', async () => {
    let body = '';
    behave = (request, response) => {
      request.on('data', (piece: Buffer) => (body += piece.toString()));
      request.on('end', () => json(response, { received: 5 }));
    };
    const { id: _id, revision: _revision, ...file } = entry(5);
    async function* bytes() {
      yield Buffer.from('he');
      yield Buffer.from('llo');
    }
    expect(await link.write(DEVICE, 'restore-1', file, bytes())).toBe(5);
    expect(body).toBe('hello');
    const [sent] = requests;
    expect(sent?.url).toBe('/link/v1/devices/device-1/restores/restore-1/entry');
    const described: unknown = JSON.parse(
      Buffer.from(String(sent?.headers[ENTRY_HEADER]), 'base64url').toString(),
    );
    expect(described).toEqual(file);
  });
});

describe('a device that says what cannot be', () => {
  const odd: [string, object][] = [
    ['charge', { charge: 130 }],
    ['osVersion', { osVersion: 'newest' }],
    ['name', { name: 'x'.repeat(5000) }],
    ['name', { name: 'two\nlines' }],
    ['serial', { serial: '' }],
    [
      'content',
      { content: Array.from({ length: 5000 }, () => ({ class: 'notes', items: 1, bytes: 1 })) },
    ],
    ['capacity', { capacity: -1 }],
  ];

  test.each(odd)('of its %s hides no other, and is told with what is odd', async (fact, said) => {
    const events = [
      {
        type: 'bench',
        ...{ network: 0, berths: 3 },
        devices: [
          deviceFacts({ id: 'sound' }),
          { ...deviceFacts({ id: 'odd', berth: 2 }), ...said },
          'no device at all',
        ],
      },
      { type: 'changed', device: { ...deviceFacts({ id: 'sound' }), ...said } },
      { type: 'sunspots' },
      { type: 'arrived', device: deviceFacts({ id: 'later' }) },
    ];
    behave = (_request, response) =>
      response.end(events.map((event) => `${JSON.stringify(event)}\n`).join('') + 'rubbish\n');
    const seen: unknown[] = [];
    const watching = (async () => {
      for await (const event of link.events(new AbortController().signal)) seen.push(event);
    })();
    expect(await refusal(watching)).toBe('no-answer');
    expect(seen).toMatchObject([
      { type: 'bench', devices: [{ id: 'sound' }], odd: [{ id: 'odd', berth: 2, facts: [fact] }] },
      { type: 'odd', device: { id: 'sound', facts: [fact] } },
      { type: 'arrived', device: { id: 'later' } },
    ]);
  });
});

describe('events', () => {
  test('lines that were cut anywhere are put together again', async () => {
    const lines = [
      { type: 'bench', network: 0, berths: 2, devices: [deviceFacts({ name: 'Grüße' })] },
      { type: 'heartbeat' },
      { type: 'left', id: 'device-1' },
    ]
      .map((event) => `${JSON.stringify(event)}\n`)
      .join('');
    behave = (_request, response) => {
      const bytes = Buffer.from(lines);
      let at = 0;
      const next = () => {
        if (at >= bytes.length) return response.end();
        response.write(bytes.subarray(at, (at += 1)), () => setTimeout(next, 1));
      };
      next();
    };
    const seen: unknown[] = [];
    const watching = (async () => {
      for await (const event of link.events(new AbortController().signal)) seen.push(event);
    })();
    expect(await refusal(watching)).toBe('no-answer');
    expect(seen).toMatchObject([
      { type: 'bench', devices: [{ name: 'Grüße' }] },
      { type: 'heartbeat' },
      { type: 'left', id: 'device-1' },
    ]);
  });
});
