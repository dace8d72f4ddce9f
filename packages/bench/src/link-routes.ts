import { createReadStream } from 'node:fs';
import { randomUUID } from 'node:crypto';
import { readlink } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setTimeout as sleep } from 'node:timers/promises';
import { isDataClass } from '@bright-cellar/core';
import {
  ENTRY_HEADER,
  HEARTBEAT_MS,
  LINK_VERSION,
  LinkError,
  linkStatus,
  newEntrySchema,
  PAGE_ENTRIES,
  restoreOfferSchema,
  type Entry,
  type SentEvent,
} from '@bright-cellar/device-link';
import express, {
  type ErrorRequestHandler,
  type Request,
  type Response,
  type Router,
} from 'express';
import { z } from 'zod';
import type { Bench } from './bench.js';
import { hasToken } from './has-token.js';
import { entryOf } from './folder-index.js';
import { writeEntry } from './folder-writer.js';
import type { StandIn } from './stand-in.js';

/** The device link as docs/device-link.md tells it, spoken by the stand-ins. */
export function linkRoutes(bench: Bench, token: string): Router {
  const router = express.Router();

  router.use((request, _response, next) => {
    next(hasToken(request, token) ? undefined : new LinkError('not-authorised'));
  });

  router.get('/', (_request, response) => {
    response.json({ protocol: 'device-link', version: LINK_VERSION, adapter: 'Stand-in bench' });
  });

  router.get('/events', (_request, response) => {
    response.setHeader('content-type', 'application/x-ndjson');
    const send = (event: SentEvent) => response.write(`${JSON.stringify(event)}\n`);
    send({
      type: 'bench',
      berths: bench.berths,
      network: bench.network,
      devices: bench.present().map((device) => device.facts()),
    });
    const stop = bench.listen(send);
    const beat = setInterval(() => send({ type: 'heartbeat' }), HEARTBEAT_MS);
    response.on('close', () => {
      stop();
      clearInterval(beat);
    });
  });

  const onDevice = (
    work: (device: StandIn, request: Request, response: Response) => Promise<void> | void,
  ) => {
    return async (request: Request, response: Response) => {
      const device = bench.devices.get(String(request.params.id));
      if (!device) throw new LinkError('no-such-device');
      device.mustBeHere();
      device.touched();
      // A pulled cable cuts whatever is on it, without an answer.
      const stop = bench.onLeft(device.definition.id, () => response.socket?.destroy());
      response.on('close', stop);
      if (device.cable.faults.latencyMs > 0) await sleep(device.cable.faults.latencyMs);
      await work(device, request, response);
    };
  };
  const json = express.json();

  router.get(
    '/devices/:id',
    onDevice((device, _request, response) => void response.json(device.facts())),
  );

  router.get(
    '/devices/:id/revision',
    onDevice(async (device, _request, response) => {
      response.json({ contentRevision: await device.lookAgain() });
    }),
  );

  router.get(
    '/devices/:id/entries',
    onDevice((device, request, response) => {
      const { class: dataClass, after } = z
        .object({ class: z.string().refine(isDataClass), after: z.string() })
        .parse(request.query);
      const { revision } = device.index();
      const all = device.entries(dataClass);
      // The cursor is the listing's revision and a place in it: a listing that changed starts anew.
      const [seen, place] = after.split('.');
      if (after !== '' && seen !== revision) throw new LinkError('changed');
      const from = Number(place ?? 0);
      const until = from + PAGE_ENTRIES;
      response.json({
        entries: all.slice(from, until),
        next: until < all.length ? `${revision}.${until}` : null,
      });
    }),
  );

  router.get(
    '/devices/:id/entries/:entry/content',
    onDevice(async (device, request, response) => {
      const entry = device.index().byId.get(String(request.params.entry));
      const folder = device.condition.contents;
      if (!entry || !folder) throw new LinkError('no-such-entry');
      if (device.isSealed(entry)) throw new LinkError('sealed');
      if (device.isUnreadable(entry.id)) throw new LinkError('read-error');
      const now = await entryOf(folder, entry.path).catch(() => null);
      if (!now) throw new LinkError('no-such-entry');
      const wanted = request.headers['if-match'];
      if (wanted !== undefined && wanted !== `"${now.revision}"`) throw new LinkError('changed');
      const from = Number(/^bytes=(\d+)-$/.exec(request.headers.range ?? '')?.[1] ?? 0);
      if (from > now.bytes) throw new LinkError('not-valid');
      response.status(from > 0 ? 206 : 200);
      if (from > 0)
        response.setHeader('content-range', `bytes ${from}-${now.bytes - 1}/${now.bytes}`);
      response.setHeader('etag', `"${now.revision}"`);
      response.setHeader('content-length', now.bytes - from);
      response.setHeader('content-type', 'application/octet-stream');
      const contents = unlessChanged(folder, now, contentsOf(folder, now, from));
      await pipeline(device.cable.carry(contents), response).catch(() => {
        // The reader went away, or the cable was cut: there is nobody left to tell.
        response.destroy();
      });
    }),
  );

  router.get(
    '/devices/:id/groups',
    onDevice((device, _request, response) => void response.json({ groups: device.groups() })),
  );

  router.post(
    '/devices/:id/backup',
    json,
    onDevice(async (device, request, response) => {
      const { encrypted } = z.object({ encrypted: z.boolean() }).parse(request.body);
      response.json({ state: await device.beginBackup(encrypted) });
    }),
  );
  router.post(
    '/devices/:id/update',
    json,
    onDevice(async (device, request, response) => {
      const { serial } = z.object({ serial: z.string() }).parse(request.body);
      if (serial !== device.definition.serial) throw new LinkError('wrong-serial');
      await device.update();
      response.status(202).end();
    }),
  );
  router.delete(
    '/devices/:id/backup',
    onDevice((device, _request, response) => {
      device.endBackup();
      response.status(204).end();
    }),
  );

  router.post(
    '/devices/:id/restores',
    json,
    onDevice(async (device, request, response) => {
      const id = randomUUID();
      await device.beginRestore(id, restoreOfferSchema.parse(request.body));
      response.status(201).json({ id });
    }),
  );

  router.put(
    '/devices/:id/restores/:restore/entry',
    onDevice(async (device, request, response) => {
      const described: unknown = JSON.parse(
        Buffer.from(String(request.headers[ENTRY_HEADER] ?? ''), 'base64url').toString('utf8'),
      );
      const entry = newEntrySchema.parse(described);
      const folder = device.incoming(String(request.params.restore));
      const received = await writeEntry(folder, entry, device.cable.carry(request));
      device.received(entry.path, received);
      response.json({ received });
    }),
  );

  router.post(
    '/devices/:id/restores/:restore/commit',
    json,
    onDevice((device, request, response) => {
      const sent = z.object({ items: z.int(), bytes: z.int() }).parse(request.body);
      device.commitRestore(String(request.params.restore), sent);
      response.status(202).end();
    }),
  );

  router.post(
    '/devices/:id/restart',
    onDevice((device, _request, response) => {
      response.status(202).end();
      void device.restart();
    }),
  );

  router.post(
    '/devices/:id/erase',
    json,
    onDevice(async (device, request, response) => {
      const { serial } = z.object({ serial: z.string() }).parse(request.body);
      if (serial !== device.definition.serial) throw new LinkError('wrong-serial');
      await device.erase();
      response.status(204).end();
    }),
  );

  router.use(((error: unknown, _request, response, next) => {
    if (response.headersSent) return next(error);
    const code =
      error instanceof LinkError && error.code !== 'no-answer' ? error.code : 'not-valid';
    response.status(linkStatus[code]).json({ error: code });
  }) satisfies ErrorRequestHandler);
  return router;
}

async function* contentsOf(folder: string, entry: Entry, from: number): AsyncGenerator<Uint8Array> {
  const full = join(folder, entry.path);
  if (entry.kind === 'folder') return;
  if (entry.kind === 'link') {
    yield* Readable.from([Buffer.from(await readlink(full)).subarray(from)]);
    return;
  }
  if (entry.bytes > from) {
    yield* createReadStream(full, { start: from, end: entry.bytes - 1, highWaterMark: 256 * 1024 });
  }
}

/**
 * Contents of one state, as a real device gives them out: their last bytes come only when they are still those of that
 * state once all of them were read. Otherwise the connection breaks, and the next try hears that they changed.
 */
async function* unlessChanged(
  folder: string,
  entry: Entry,
  pieces: AsyncIterable<Uint8Array>,
): AsyncGenerator<Uint8Array> {
  let held: Uint8Array | null = null;
  for await (const piece of pieces) {
    if (held) yield held;
    held = piece;
  }
  const now = await entryOf(folder, entry.path).catch(() => null);
  if (now?.revision !== entry.revision) throw new LinkError('changed');
  if (held) yield held;
}
