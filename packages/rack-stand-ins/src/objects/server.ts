import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { setTimeout as sleep } from 'node:timers/promises';
import express, { type Request, type Response } from 'express';
import { create } from 'xmlbuilder2';
import { faultsSchema, type Faults } from './faults.js';
import { faultsFrom, pageOf } from './page.js';
import { Shelf, type Kept } from './shelf.js';
import { refusalOf, type Login } from './signature.js';

export interface Objects {
  /** Where it answers. */
  address: string;
  faults: Faults;
  /** How many bytes came in bodies since it began. */
  readonly received: number;
  stop(): Promise<void>;
}

const BODY_MOST = 64 * 2 ** 20;
const PAGE = 1000;
/** Few: who reads the first page of parts only sends the others again. */
const PARTS_PAGE = 2;

/** Object storage on loopback that speaks what docs/object-storage.md says, for one bucket and one login. */
export async function startObjects(options: {
  bucket: string;
  login: Login;
  port?: number;
  /** Where objects are kept; in memory only where not said. */
  folder?: string;
  /** What somebody sees who opens its address in a browser: nothing where not said. */
  page?: boolean;
}): Promise<Objects> {
  const state = { faults: faultsSchema.parse({}), received: 0, asked: 0 };
  const shelf = new Shelf(options.folder);
  const app = express();
  app.disable('x-powered-by');
  if (options.page === true) {
    app.get('/', (request, response) => {
      const { bucket, login } = options;
      const address = `http://${request.get('host') ?? ''}`;
      response
        .type('html')
        .send(pageOf({ address, bucket, login, faults: state.faults, ...shelf.amount }));
    });
    app.post('/', express.urlencoded({ extended: false }), (request, response) => {
      state.faults = faultsFrom(request.body);
      response.redirect(303, '/');
    });
  }
  app.use(express.raw({ type: () => true, limit: BODY_MOST }));
  app.use(async (request, response) => {
    const body = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
    state.received += body.length;
    state.asked += 1;
    const { slowMs, failEvery, cutEvery, skewMs } = state.faults;
    if (slowMs > 0) await sleep(slowMs);
    const now = Date.now() + skewMs;
    response.setHeader('date', new Date(now).toUTCString());
    if (cutEvery > 0 && state.asked % cutEvery === 0) {
      response.socket?.destroy();
      return;
    }
    if (failEvery > 0 && state.asked % failEvery === 0) {
      refuse(response, 503, 'SlowDown');
      return;
    }
    const refusal = refusalOf(request, body, options.login, now);
    if (refusal) refuse(response, 403, refusal);
    else answer(request, response, { body, now, shelf, bucket: options.bucket });
  });
  const server: Server = createServer(app);
  server.listen(options.port ?? 0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  return {
    address: `http://127.0.0.1:${port}`,
    get faults() {
      return state.faults;
    },
    set faults(faults) {
      state.faults = faults;
    },
    get received() {
      return state.received;
    },
    async stop() {
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    },
  };
}

interface Asked {
  body: Buffer;
  now: number;
  shelf: Shelf;
  bucket: string;
}

function answer(request: Request, response: Response, asked: Asked): void {
  const { shelf, bucket, now, body } = asked;
  const [, own = '', ...rest] = request.path.split('/');
  const key = decodeURIComponent(rest.join('/'));
  const query = (name: string) => {
    const value = request.query[name];
    return typeof value === 'string' ? value : null;
  };
  if (own !== bucket) return refuse(response, 404, 'NoSuchBucket');
  if (key === '') {
    if (query('uploads') !== null) return listUploads(response, shelf, query('prefix') ?? '');
    return listObjects(response, asked, query);
  }
  const uploadId = query('uploadId');
  if (uploadId !== null) return ofUpload(request, response, asked, uploadId, query);
  if (request.method === 'POST' && query('uploads') !== null) {
    return xml(response, 'InitiateMultipartUploadResult', {
      ...{ Bucket: bucket, Key: key, UploadId: shelf.begin(key, now) },
    });
  }
  const there = shelf.get(key);
  switch (request.method) {
    case 'HEAD':
    case 'GET':
      return send(request, response, there);
    case 'DELETE':
      shelf.remove(key);
      return void response.status(204).end();
    case 'PUT': {
      if (isRefused(request, there)) return refuse(response, 412, 'PreconditionFailed');
      const source = request.get('x-amz-copy-source');
      if (source === undefined) {
        return void response.set('etag', shelf.put(key, body, now).etag).end();
      }
      const from = shelf.get(keyOfSource(source, bucket));
      if (!from) return refuse(response, 404, 'NoSuchKey');
      return xml(response, 'CopyObjectResult', { ETag: shelf.put(key, from.bytes, now).etag });
    }
    default:
      return refuse(response, 405, 'MethodNotAllowed');
  }
}

const keyOfSource = (source: string, bucket: string) =>
  decodeURIComponent(source.replace(/^\//, '').slice(bucket.length + 1));

function isRefused(request: Request, there: Kept | undefined): boolean {
  if (request.get('if-none-match') === '*' && there) return true;
  const match = request.get('if-match');
  return match !== undefined && match !== there?.etag;
}

function send(request: Request, response: Response, there: Kept | undefined): void {
  if (!there) return refuse(response, 404, 'NoSuchKey');
  const { bytes, etag, at } = there;
  const match = request.get('if-match');
  if (match !== undefined && match !== etag) return refuse(response, 412, 'PreconditionFailed');
  response.set({ etag, 'last-modified': new Date(at).toUTCString(), 'accept-ranges': 'bytes' });
  const range = /^bytes=(\d+)-(\d+)$/.exec(request.get('range') ?? '');
  if (!range) {
    response.set('content-length', String(bytes.length));
    response.end(request.method === 'HEAD' ? undefined : bytes);
    return;
  }
  const [from, to] = [Number(range[1]), Math.min(Number(range[2]), bytes.length - 1)];
  if (from >= bytes.length) return refuse(response, 416, 'InvalidRange');
  response.status(206).set('content-range', `bytes ${from}-${to}/${bytes.length}`);
  response.end(bytes.subarray(from, to + 1));
}

function ofUpload(
  request: Request,
  response: Response,
  { shelf, body, now, bucket }: Asked,
  id: string,
  query: (name: string) => string | null,
): void {
  const upload = shelf.upload(id);
  if (!upload) return refuse(response, 404, 'NoSuchUpload');
  const putPart = (bytes: Buffer) => shelf.putPart(upload, Number(query('partNumber')), bytes, now);
  switch (request.method) {
    case 'PUT': {
      const source = request.get('x-amz-copy-source');
      if (source === undefined) {
        return void response.set('etag', putPart(body).etag).end();
      }
      const from = shelf.get(keyOfSource(source, bucket));
      const range = /^bytes=(\d+)-(\d+)$/.exec(request.get('x-amz-copy-source-range') ?? '');
      if (!from) return refuse(response, 404, 'NoSuchKey');
      const bytes = range
        ? from.bytes.subarray(Number(range[1]), Number(range[2]) + 1)
        : from.bytes;
      const { etag } = putPart(bytes);
      return xml(response, 'CopyPartResult', { ETag: etag });
    }
    case 'GET': {
      const after = Number(query('part-number-marker') ?? 0);
      const rest = [...upload.parts].filter(([number]) => number > after).sort(([a], [b]) => a - b);
      const page = rest.slice(0, PARTS_PAGE);
      return xml(response, 'ListPartsResult', {
        ...{ UploadId: id, IsTruncated: rest.length > page.length },
        NextPartNumberMarker: page.at(-1)?.[0] ?? after,
        Part: page.map(([number, { etag, bytes }]) => ({
          ...{ PartNumber: number, ETag: etag, Size: bytes.length },
        })),
      });
    }
    case 'DELETE':
      shelf.abort(id);
      return void response.status(204).end();
    case 'POST': {
      if (isRefused(request, shelf.get(upload.key))) {
        return refuse(response, 412, 'PreconditionFailed');
      }
      const numbers = [...body.toString('utf8').matchAll(/<PartNumber>(\d+)</g)].map(([, n]) =>
        Number(n),
      );
      const kept = shelf.complete(id, numbers, now);
      if (!kept) return refuse(response, 400, 'InvalidPart');
      return xml(response, 'CompleteMultipartUploadResult', { Key: upload.key, ETag: kept.etag });
    }
    default:
      return refuse(response, 405, 'MethodNotAllowed');
  }
}

function listObjects(
  response: Response,
  { shelf }: Asked,
  query: (name: string) => string | null,
): void {
  const most = Math.min(PAGE, Number(query('max-keys') ?? PAGE));
  const prefix = query('prefix') ?? '';
  if (query('delimiter') === '/') {
    const names = shelf.folders(prefix);
    return xml(response, 'ListBucketResult', {
      ...{ IsTruncated: false, KeyCount: names.length },
      CommonPrefixes: names.map((name) => ({ Prefix: name })),
    });
  }
  const { found, isCut } = shelf.list(prefix, query('continuation-token') ?? '', most);
  xml(response, 'ListBucketResult', {
    ...{ IsTruncated: isCut, KeyCount: found.length },
    ...(isCut ? { NextContinuationToken: found.at(-1)?.[0] ?? '' } : {}),
    Contents: found.map(([key, { bytes, etag, at }]) => ({
      ...{ Key: key, Size: bytes.length, ETag: etag, LastModified: new Date(at).toISOString() },
    })),
  });
}

function listUploads(response: Response, shelf: Shelf, prefix: string): void {
  xml(response, 'ListMultipartUploadsResult', {
    IsTruncated: false,
    Upload: shelf.uploads(prefix).map(([id, { key, at }]) => ({
      ...{ Key: key, UploadId: id, Initiated: new Date(at).toISOString() },
    })),
  });
}

function xml(response: Response, name: string, contents: object): void {
  response.type('application/xml').send(create({ [name]: contents }).end());
}

function refuse(response: Response, status: number, code: string): void {
  response.status(status);
  xml(response, 'Error', { Code: code, Message: code });
}
