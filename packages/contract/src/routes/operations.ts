import {
  type OperationKind,
  operations,
  type Permission,
  operationKinds,
  definitionOf,
  idSchema as id,
  knownPasswordSchema as knownPassword,
} from '@bright-cellar/core';
import { z } from 'zod';
import type { Route } from '../route.js';
import { operationSchema, failedItemSchema } from '../shapes/index.js';
import { nothing, route } from './define.js';

type Start<Kind extends OperationKind> = (typeof operations)[Kind]['start'];

type StartRoute<Kind extends OperationKind> = Route<
  Start<Kind>['params'],
  typeof nothing,
  Start<Kind>['body'],
  typeof operationSchema,
  Permission
>;

type StartRoutes = {
  [Kind in OperationKind as `start${Capitalize<Kind>}`]: StartRoute<Kind>;
};

/** How each kind of long work is started: what a screen sends is said with the kind itself, in core. */
const startRoutes = Object.fromEntries(
  operationKinds.map((kind) => {
    const { start, permission, triesPassword } = definitionOf(kind);
    return [
      `start${kind.charAt(0).toUpperCase()}${kind.slice(1)}`,
      {
        method: 'POST',
        path: `/api${start.path}`,
        summary: start.summary,
        access: permission,
        params: start.params,
        query: nothing,
        body: start.body,
        response: operationSchema,
        triesPassword,
        isLong: true,
      } satisfies Route,
    ];
  }),
) as unknown as StartRoutes;

/** The route that starts work of a kind. */
export const startRouteOf = <Kind extends OperationKind>(kind: Kind): StartRoute<Kind> =>
  startRoutes[`start${kind.charAt(0).toUpperCase()}${kind.slice(1)}` as keyof StartRoutes];

export const operationsRoutes = {
  ...startRoutes,
  operation: route(
    'GET',
    '/api/operations/:id',
    'see',
    'One operation.',
    { params: z.object({ id }) },
    operationSchema,
  ),
  operations: route(
    'GET',
    '/api/operations',
    'see',
    'Operations that are running.',
    {},
    z.array(operationSchema),
  ),
  stopOperation: route(
    'POST',
    '/api/operations/:id/stop',
    'see',
    'Ask an operation to stop.',
    { params: z.object({ id }) },
    operationSchema,
  ),
  pauseOperation: route(
    'POST',
    '/api/operations/:id/pause',
    'see',
    'Let a running backup wait, or go on.',
    { params: z.object({ id }), body: z.object({ paused: z.boolean() }) },
    operationSchema,
  ),
  retryFailed: route(
    'POST',
    '/api/operations/:id/retry',
    'back-up',
    'Try only the items again that failed, in a further backup of the same archive.',
    { triesPassword: true, params: z.object({ id }), body: knownPassword },
    operationSchema,
  ),
  failedItems: route(
    'GET',
    '/api/operations/:id/failed',
    'back-up',
    'Each item that a backup did not take, as its device lists it now; names only where looking inside was agreed.',
    { params: z.object({ id }) },
    z.array(failedItemSchema),
  ),
  continueOperation: route(
    'POST',
    '/api/operations/:id/continue',
    'see',
    'Let work that was cut off go on from what it left behind.',
    {
      triesPassword: true,
      params: z.object({ id }),
      // Empty where the work opens nothing.
      body: z.object({
        fromDesk: z.boolean().default(false),
        password: z.string().max(1024).default(''),
      }),
    },
    operationSchema,
  ),
  discardOperation: route(
    'POST',
    '/api/operations/:id/discard',
    'see',
    'Give up what is left of work that was cut off.',
    { params: z.object({ id }) },
    operationSchema,
  ),
} as const;
