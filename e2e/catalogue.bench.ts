import mysql from 'mysql2/promise';
import { expect, test } from 'vitest';
import { Api } from './api.js';
import { fillCatalogue } from './full-catalogue.js';
import { startTestProduct } from './product.js';

/**
 * `npm run bench:catalogue`: how long each GET route takes over the catalogue of a shop that has been there for years, beside
 * the lightest of them (the house rules), which is one row by its name.
 */
const ARCHIVES = Number(process.env.CATALOGUE_ARCHIVES ?? 100_000);
const AUDITS = Number(process.env.CATALOGUE_AUDITS ?? 1_000_000);
const TICKETS = Number(process.env.CATALOGUE_TICKETS ?? 150_000);
const CALLS = Number(process.env.CATALOGUE_CALLS ?? 60);
/** A route that took longer than this altogether is not called again. */
const PATIENCE_MS = 20_000;
const BASELINE = '/api/settings';

const routes = [
  BASELINE,
  '/api/bench',
  '/api/find?text=Customer+777',
  '/api/find?text=V',
  '/api/find?text=nobody',
  '/api/find?text=Costumer+777',
  '/api/find?text=phone+last+spring+alder',
  '/api/customers?text=Customer',
  '/api/customers?text=nobody',
  '/api/tickets',
  '/api/tickets?text=Customer+777',
  '/api/tickets/1900000001',
  '/api/archives',
  '/api/archives?sort=device&order=asc',
  '/api/archives?text=customer+777',
  '/api/archives?text=nobody',
  '/api/archives?text=Costumer+777',
  '/api/archives?text=phone+last+spring&sort=customer',
  '/api/archives/summary',
  `/api/archives/04000000-0000-4000-8000-000000000001`,
  '/api/racks',
  '/api/racks/elevations',
  '/api/racks/places',
  '/api/racks/RACK',
  '/api/racks/RACK/copies',
  '/api/racks/RACK/looks',
  '/api/care',
  '/api/keeping',
  '/api/moves/stock',
  '/api/moves/stock/archives?on=RACK',
  '/api/moves/planned',
  '/api/schedules',
  '/api/operations',
  `/api/reports/day?day=${new Date().toISOString().slice(0, 10)}`,
  `/api/reports/day/runs?day=${new Date().toISOString().slice(0, 10)}`,
  '/api/packages',
  '/api/recovered',
  '/api/account',
  '/api/audit',
  '/api/audit?group=work',
  '/api/audit?group=racks',
  '/api/audit?ticket=1900000077',
  '/api/audit?from=2026-01-01&to=2026-01-02',
  '/api/condition',
  '/api/day?which=opening',
  '/api/day?which=closing',
  '/api/people',
  '/api/saves',
];

/** By the nearest rank. */
const quantile = (sorted: readonly number[], q: number) =>
  sorted[Math.ceil(q * sorted.length) - 1] ?? Number.NaN;

test('every list over a full catalogue', async () => {
  const product = await startTestProduct({ only: [] });
  const db = await mysql.createConnection(product.databaseSetupUrl);
  try {
    await fillCatalogue(db, { tickets: TICKETS, archives: ARCHIVES, audits: AUDITS });
    const api = await Api.signedIn(product);
    let baseline = Number.NaN;
    const [rack] = (await api.get<{ id: string }[]>('/api/racks')).body;
    process.stderr.write(`${TICKETS} tickets, ${ARCHIVES} archives; beside ${BASELINE}\n`);
    for (const route of routes) {
      const path = route.replace('RACK', rack?.id ?? '');
      const times: number[] = [];
      const until = performance.now() + PATIENCE_MS;
      let [bytes, status] = [0, 0];
      for (let call = 0; call < CALLS && performance.now() < until; call++) {
        const began = performance.now();
        const response = await api.raw(path);
        bytes = (await response.arrayBuffer()).byteLength;
        status = response.status;
        times.push(performance.now() - began);
      }
      times.sort((a, b) => a - b);
      const [p50, p95] = [quantile(times, 0.5), quantile(times, 0.95)];
      if (path === BASELINE) baseline = p50;
      const figures = `p50 ${p50.toFixed(1)} ms, p95 ${p95.toFixed(1)} ms, ${(p50 / baseline).toFixed(1)} of the baseline`;
      process.stderr.write(`${path.padEnd(56)} ${figures}, ${Math.round(bytes / 1000)} kB\n`);
      expect(status, path).toBe(200);
    }
  } finally {
    await db.end();
    await product.stop();
  }
});
