import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Failure } from '@bright-cellar/core';
import express, { type Express } from 'express';
import expressStaticGzip from 'express-static-gzip';

/** The built site. */
const WEB = fileURLToPath(new URL('../../../web/dist/site', import.meta.url));

/** Names of assets carry what stands for their contents: what was fetched once is the same for ever. */
const FOR_EVER = '365d';

/**
 * The application's own pages. Assets go out as they were compressed when they were built; one that is not there is not
 * answered with a page. Every other address is the application's, which knows its places itself.
 */
export function siteRoutes(app: Express, folder = WEB): void {
  assetRoutes(app, folder);
  app.use(express.static(folder, { index: false }));
  pageRoute(app, folder, /^\/(?!api\/).*/);
}

/** The customer’s page alone. */
export function deskSiteRoutes(app: Express, folder = WEB): void {
  assetRoutes(app, folder);
  app.get('/lamp.svg', (_request, response) => response.sendFile('lamp.svg', { root: folder }));
  pageRoute(app, folder, /^\/desk\/[\w-]+$/);
}

function pageRoute(app: Express, folder: string, addresses: RegExp): void {
  app.get(addresses, (_request, response) => {
    response.setHeader('cache-control', 'no-cache');
    response.sendFile('index.html', { root: folder });
  });
}

function assetRoutes(app: Express, folder: string): void {
  app.use(
    '/assets',
    expressStaticGzip(join(folder, 'assets'), {
      enableBrotli: true,
      orderPreference: ['br', 'gzip'],
      index: false,
      serveStatic: { immutable: true, maxAge: FOR_EVER },
    }),
    () => {
      throw new Failure('not-found', {
        what: 'There is no such part of the application any more.',
      });
    },
  );
}
