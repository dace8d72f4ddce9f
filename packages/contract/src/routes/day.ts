import { z } from 'zod';
import {
  dayReportSchema,
  listQuery,
  runSorts,
  pageOf,
  operationSchema,
  daySheetsSchema,
  daySheetSchema,
} from '../shapes/index.js';
import { route } from './define.js';

export const dayRoutes = {
  dayReport: route(
    'GET',
    '/api/reports/day',
    'see',
    'What the bench did on a day, and how well its estimates came out.',
    { query: z.object({ day: z.iso.date() }) },
    dayReportSchema,
  ),
  dayRuns: route(
    'GET',
    '/api/reports/day/runs',
    'see',
    'What ran on a day, a page at a time.',
    { query: listQuery(runSorts, 'started').omit({ text: true }).extend({ day: z.iso.date() }) },
    pageOf(operationSchema),
  ),
  daySheet: route(
    'GET',
    '/api/day',
    'see',
    'What whoever opens or closes the shop has to know.',
    { query: z.object({ which: daySheetsSchema }) },
    daySheetSchema,
  ),
} as const;
