import {
  MESSAGE_FILE_BYTES_MAX,
  messageFilePath,
  messagePicturePath,
  PICTURE_BYTES_MAX,
  PICTURE_PLACE,
  routes,
} from '@bright-cellar/contract';
import { Failure, ticketNumberSchema } from '@bright-cellar/core';
import express from 'express';
import { z } from 'zod';
import { allowed } from '../../http/index.js';
import type { Served } from '../../served.js';
import { ticketForWork } from '../../tickets/index.js';
import { givenFileSchema } from '../given-file.js';
import { holdFileOrder, holdPictureOrder, mapFileOrder } from './orders.js';

const givenPictureSchema = z.object({
  ...{ number: ticketNumberSchema, id: z.uuid() },
  place: z.string().min(1).max(3000),
  format: z.string().max(121),
  contents: z.instanceof(Buffer),
});

/** Open files that somebody gives, and the pictures beside them: held in the work process, on record once something is written. */
export function messageFileRoutes({ app, answer, shop }: Served): void {
  const { db, orders } = shop;
  app.post(
    messageFilePath(':number', ':deviceId'),
    express.text({ type: 'text/plain', limit: MESSAGE_FILE_BYTES_MAX }),
    async (request, response) => {
      const { technicianId } = allowed(request, 'restore');
      const given = givenFileSchema.safeParse({ ...request.params, text: request.body as unknown });
      if (!given.success) throw new Failure('not-found');
      const { number, deviceId, text } = given.data;
      await ticketForWork(db, number);
      response.json(await orders.ask(holdFileOrder, { technicianId, deviceId, text }));
    },
  );
  app.post(
    messagePicturePath(':number', ':id'),
    express.raw({ type: () => true, limit: PICTURE_BYTES_MAX }),
    async (request, response) => {
      const { technicianId } = allowed(request, 'restore');
      const given = givenPictureSchema.safeParse({
        ...{ ...request.params, contents: request.body as unknown },
        ...{ place: request.get(PICTURE_PLACE), format: request.get('content-type') },
      });
      if (!given.success) throw new Failure('not-found');
      const { number, contents, ...picture } = given.data;
      await ticketForWork(db, number);
      response.json(
        await orders.ask(holdPictureOrder, {
          ...{ ...picture, technicianId, contents: contents.toString('base64') },
        }),
      );
    },
  );
  answer(routes.mapMessageFile, ({ context, params, body }) =>
    context.orders.ask(mapFileOrder, {
      ...{ id: params.id, technicianId: context.actor.technicianId },
      ...body,
    }),
  );
}
