import { AUDIT_EXPORT_PATH, auditExportSchema, routes } from '@bright-cellar/contract';
import Papa from 'papaparse';
import { allowed } from '../http/index.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import type { Served } from '../served.js';
import { checkAudit, headOf } from './check.js';
import { everyEntry, listAudit, type Entry } from './reading.js';

/** The record: read, followed from its first entry, taken out. */
export function auditRoutes({ app, answer, shop }: Served): void {
  const { db } = shop;
  answer(routes.audit, ({ query }) => listAudit(db, query));
  answer(routes.auditHead, () => headOf(db));
  answer(routes.checkAudit, ({ query }) => checkAudit(db, query.printed));
  app.get(AUDIT_EXPORT_PATH, async (request, response) => {
    const actor = allowed(request, 'audit');
    const { format, ...ask } = auditExportSchema.parse(request.query);
    await noteOnly(
      { ...shop, actor },
      { action: 'audit-exported', what: `The record was taken out as ${format}.` },
    );
    response.type(format === 'csv' ? 'text/csv' : 'application/x-ndjson');
    response.setHeader('content-disposition', `attachment; filename="record.${format}"`);
    if (format === 'csv') response.write(csvOf([headings]));
    for await (const rows of everyEntry(db, ask)) {
      const text = format === 'csv' ? csvOf(rows.map(cells)) : rows.map(asLine).join('');
      if (!response.write(text)) await new Promise((drained) => response.once('drain', drained));
      if (response.destroyed) return;
    }
    response.end();
  });
}

/** CSV (RFC 4180); what a table program would take for a formula stays a text. */
const csvOf = (rows: string[][]) => `${Papa.unparse(rows, { escapeFormulae: true })}\r\n`;
const headings = ['when', 'who', 'ticket', 'action', 'what', 'digest'];
const cells = ({ at, by, ticketNumber, action, what, digest }: Entry) => [
  ...[at.toISOString(), by ?? '', ticketNumber ?? '', action, what, digest],
];
/** JSON, one entry a line: all that its digest is made of, and the names that go with the ids. */
const asLine = ({ at, technicianId, ticketId, by, ticketNumber, action, what, digest }: Entry) =>
  `${JSON.stringify({
    ...{ at: at.toISOString(), technicianId, ticketId, action, what, digest },
    ...{ by, ticketNumber },
  })}\n`;
