import { linkDeviceSchema, ticketNumberSchema } from '@bright-cellar/core';
import { z } from 'zod';

/** A file that somebody gives as text, for a ticket and a device. */
export const givenFileSchema = z.object({
  number: ticketNumberSchema,
  deviceId: linkDeviceSchema,
  text: z.string().min(1),
});
