import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { request, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import { problemOf } from '@bright-cellar/core';
import express, { type ErrorRequestHandler } from 'express';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { siteRoutes } from './site.js';

const folder = mkdtempSync(join(tmpdir(), 'cellar-site-'));
const PART = 'export const lamp = "lit";\n'.repeat(100);
let server: Server;

beforeAll(async () => {
  mkdirSync(join(folder, 'assets'));
  writeFileSync(join(folder, 'index.html'), '<!doctype html><title>Bright Cellar</title>');
  writeFileSync(join(folder, 'lamp.svg'), '<svg/>');
  writeFileSync(join(folder, 'assets/part-1a2b.js'), PART);
  writeFileSync(join(folder, 'assets/part-1a2b.js.br'), brotliCompressSync(PART));
  writeFileSync(join(folder, 'assets/part-1a2b.js.gz'), gzipSync(PART));
  const app = express();
  siteRoutes(app, folder);
  app.use(((error: unknown, _request, response, next) => {
    if (response.headersSent) return next(error);
    response.status(404).json(problemOf(error));
  }) satisfies ErrorRequestHandler);
  await new Promise<void>((listening) => {
    server = app.listen(0, '127.0.0.1', () => listening());
  });
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

/** As it comes over the wire: nothing is unpacked. */
async function fetched(path: string, accepts = 'identity') {
  const { port } = server.address() as AddressInfo;
  const response = await new Promise<IncomingMessage>((resolve, reject) => {
    request({ host: '127.0.0.1', port, path, headers: { 'accept-encoding': accepts } }, resolve)
      .on('error', reject)
      .end();
  });
  const pieces: Buffer[] = [];
  for await (const piece of response) pieces.push(piece as Buffer);
  return { status: response.statusCode, headers: response.headers, body: Buffer.concat(pieces) };
}

test.each([
  ['gzip, deflate, br', 'br', brotliCompressSync(PART)],
  ['gzip', 'gzip', gzipSync(PART)],
  ['identity', undefined, Buffer.from(PART)],
])('to a browser that takes “%s” an asset goes as %s', async (accepts, encoding, body) => {
  const answer = await fetched('/assets/part-1a2b.js', accepts);
  expect(answer.status).toBe(200);
  expect(answer.headers['content-encoding']).toBe(encoding);
  expect(answer.headers['content-type']).toMatch(/javascript/);
  expect(answer.headers.vary).toMatch(/accept-encoding/i);
  expect(answer.body.equals(body)).toBe(true);
});

test('an asset is kept for ever, the page that names it never', async () => {
  expect((await fetched('/assets/part-1a2b.js', 'br')).headers['cache-control']).toBe(
    'public, max-age=31536000, immutable',
  );
  for (const path of ['/', '/tickets/26110001']) {
    const page = await fetched(path);
    expect(page.headers['cache-control']).toBe('no-cache');
    expect(page.body.toString()).toMatch(/<title>Bright Cellar/);
  }
});

test('an asset that is not there is not answered with a page', async () => {
  for (const path of ['/assets/part-0000.js', '/assets/']) {
    const answer = await fetched(path, 'br');
    expect([path, answer.status]).toEqual([path, 404]);
    expect(JSON.parse(answer.body.toString())).toMatchObject({ code: 'not-found' });
  }
  expect((await fetched('/lamp.svg')).headers['content-type']).toMatch(/svg/);
});
