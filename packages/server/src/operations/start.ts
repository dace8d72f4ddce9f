import type { z } from 'zod';
import type { OperationKind, operations } from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import type { Context } from '../shop.js';

type Asks<Kind extends OperationKind> = (typeof operations)[Kind]['start'];

/** Judges whether work of a kind may start, from facts asked anew, and starts it. */
export type Start<Kind extends OperationKind> = (
  context: Context,
  params: z.output<Asks<Kind>['params']>,
  body: z.output<Asks<Kind>['body']>,
) => Promise<Operation>;

/** Who starts which kind of work: one of each, or it does not compile. */
export type Starts = { [Kind in OperationKind]: Start<Kind> };
