import { randomUUID } from 'node:crypto';
import { pipeline } from 'node:stream/promises';
import { isDataClass, mountedFolderSchema } from '@bright-cellar/core';
import {
  arrangementSchema,
  ENTRY_HEADER,
  HEARTBEAT_MS,
  LINK_VERSION,
  LinkError,
  linkStatus,
  droppedEntrySchema,
  newEntrySchema,
  type NewEntry,
  PAGE_ENTRIES,
  restoreOfferSchema,
  type SentEvent,
  smallAskedSchema,
  type SmallHead,
} from '@bright-cellar/device-link';
import express, {
  type ErrorRequestHandler,
  type Request,
  type Response,
  type Router,
} from 'express';
import { z } from 'zod';
import type { Berths } from './berths.js';
import { contentsOf, entryNow, mustBeReadable, unlessChanged, wholeOf } from './folder-reader.js';
import { hasToken } from './has-token.js';
import type { LinkDevice } from './link-device.js';
import type { Mounts } from './mounts.js';

export interface LinkBench {
  /** What it calls itself. */
  name: string;
  token: string;
  berths: Berths;
  mounts: Mounts;
}

/** Of which revision something must be still; null where none is named. One that is not understood is the empty one, which nothing has. */
function revisionIn(request: Request): string | null {
  const said = request.headers['if-match'];
  return said === undefined ? null : (/^"(.+)"$/.exec(said)?.[1] ?? '');
}

/** Each after a line that says how many bytes follow and of which revision, or why none do. */
async function* smallContents(
  device: LinkDevice,
  asked: z.infer<typeof smallAskedSchema>['entries'],
): AsyncGenerator<Uint8Array> {
  const line = (head: SmallHead) => Buffer.from(`${JSON.stringify(head)}\n`);
  for (const { id, revision } of asked) {
    try {
      const contents = await wholeOf(device.find(id), revision);
      yield Buffer.concat([line({ bytes: contents.length, revision }), contents]);
    } catch (error) {
      if (!(error instanceof LinkError) || error.code === 'no-answer') throw error;
      yield line({ error: error.code });
    }
  }
}

/** The device link as docs/device-link.md tells it, over devices whose contents are the files of a folder. */
export function linkRoutes({ name, token, berths, mounts }: LinkBench): Router {
  const router = express.Router();
  const picture = (): SentEvent => ({
    type: 'bench',
    berths: berths.cables,
    network: berths.network,
    storage: true,
    devices: berths.present().map((device) => device.facts()),
  });

  router.use((request, _response, next) => {
    next(hasToken(request, token) ? undefined : new LinkError('not-authorised'));
  });

  router.get('/', (_request, response) => {
    response.json({ protocol: 'device-link', version: LINK_VERSION, adapter: name });
  });

  router.get('/events', (_request, response) => {
    response.setHeader('content-type', 'application/x-ndjson');
    const send = (event: SentEvent) => response.write(`${JSON.stringify(event)}\n`);
    send(picture());
    const stop = berths.listen(send);
    const beat = setInterval(() => send({ type: 'heartbeat' }), HEARTBEAT_MS);
    response.on('close', () => {
      stop();
      clearInterval(beat);
    });
  });

  const onDevice = (
    work: (device: LinkDevice, request: Request, response: Response) => Promise<void> | void,
  ) => {
    return async (request: Request, response: Response) => {
      const device = berths.here(String(request.params.id));
      // A pulled cable cuts whatever is on it, without an answer.
      const stop = berths.onLeft(device.id, () => response.socket?.destroy());
      response.on('close', stop);
      await device.touched();
      await work(device, request, response);
    };
  };
  const json = express.json();
  const serialSchema = z.object({ serial: z.string() });

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
      const { revision, entries: all } = device.listing(dataClass);
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
      const found = device.find(String(request.params.entry));
      const { folder } = found;
      const now = await entryNow(found, revisionIn(request));
      const from = Number(/^bytes=(\d+)-$/.exec(request.headers.range ?? '')?.[1] ?? 0);
      if (from > now.bytes) throw new LinkError('not-valid');
      await mustBeReadable(folder, now, from);
      response.status(from > 0 ? 206 : 200);
      if (from > 0)
        response.setHeader('content-range', `bytes ${from}-${now.bytes - 1}/${now.bytes}`);
      response.setHeader('etag', `"${now.revision}"`);
      response.setHeader('content-length', now.bytes - from);
      response.setHeader('content-type', 'application/octet-stream');
      const carried = device.carry(unlessChanged(folder, now, contentsOf(folder, now, from)));
      await pipeline(carried, response).catch(() => {
        // The reader went away, or the cable was cut: there is nobody left to tell.
        response.destroy();
      });
    }),
  );

  router.post(
    '/devices/:id/contents',
    json,
    onDevice(async (device, request, response) => {
      const { entries } = smallAskedSchema.parse(request.body);
      response.setHeader('content-type', 'application/octet-stream');
      await pipeline(device.carry(smallContents(device, entries)), response).catch(() => {
        // As with one entry: there is nobody left to tell.
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
      const { serial } = serialSchema.parse(request.body);
      if (serial !== device.serial) throw new LinkError('wrong-serial');
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

  const saidOf = (request: Request): unknown => {
    const said = Buffer.from(String(request.headers[ENTRY_HEADER] ?? ''), 'base64url');
    return JSON.parse(said.toString('utf8'));
  };
  const described = (request: Request): NewEntry => newEntrySchema.parse(saidOf(request));
  router.put(
    '/devices/:id/restores/:restore/entry',
    onDevice(async (device, request, response) => {
      const restore = String(request.params.restore);
      const received = await device.receive(restore, described(request), device.carry(request));
      response.json({ received });
    }),
  );

  router.delete(
    '/devices/:id/restores/:restore/entry',
    onDevice(async (device, request, response) => {
      const { path } = droppedEntrySchema.parse(saidOf(request));
      await device.drop(String(request.params.restore), path);
      response.status(204).end();
    }),
  );

  router.post(
    '/devices/:id/additions',
    json,
    onDevice(async (device, request, response) => {
      const id = randomUUID();
      await device.beginAddition(id, serialSchema.parse(request.body).serial);
      response.status(201).json({ id });
    }),
  );
  router.put(
    '/devices/:id/additions/:addition/entry',
    onDevice(async (device, request, response) => {
      const addition = String(request.params.addition);
      const entry = described(request);
      const received = await device.add(
        addition,
        entry,
        device.carry(request),
        revisionIn(request),
      );
      response.json({ received });
    }),
  );
  router.delete(
    '/devices/:id/additions/:addition/entry',
    onDevice(async (device, request, response) => {
      const revision = revisionIn(request);
      if (revision === null) throw new LinkError('not-valid');
      const { path } = droppedEntrySchema.parse(saidOf(request));
      await device.takeAway(String(request.params.addition), path, revision);
      response.status(204).end();
    }),
  );
  router.delete(
    '/devices/:id/additions',
    onDevice(async (device, _request, response) => {
      await device.endAddition();
      response.status(204).end();
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
      device.restart();
      response.status(202).end();
    }),
  );

  router.post(
    '/devices/:id/erase',
    json,
    onDevice(async (device, request, response) => {
      const { serial } = serialSchema.parse(request.body);
      if (serial !== device.serial) throw new LinkError('wrong-serial');
      await device.erase();
      response.status(204).end();
    }),
  );

  router.put('/bench', json, (request, response) => {
    const { berths: wanted, places } = arrangementSchema.parse(request.body);
    mounts.places = places;
    if (berths.arrange(wanted)) berths.tellAll(picture());
    response.status(204).end();
  });

  router.post('/storage', json, async (request, response) => {
    const device = await mounts.connect(mountedFolderSchema.parse(request.body));
    response.status(201).json(device.facts());
  });

  router.delete('/storage/:id', (request, response) => {
    mounts.letGo(request.params.id);
    response.status(204).end();
  });

  router.use(((error: unknown, _request, response, next) => {
    if (response.headersSent) return next(error);
    const code =
      error instanceof LinkError && error.code !== 'no-answer' ? error.code : 'not-valid';
    response.status(linkStatus[code]).json({ error: code });
  }) satisfies ErrorRequestHandler);
  return router;
}
