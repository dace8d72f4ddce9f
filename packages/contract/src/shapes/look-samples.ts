import { z } from 'zod';

/** A few things out of a backup, drawn by the program, to be looked for on the device that it went onto. All of it is the customer's. */
export const lookSamplesSchema = z.object({
  /** The newest, and others. */
  photographs: z.array(
    z.object({ item: z.int(), at: z.iso.datetime(), album: z.string(), isPicture: z.boolean() }),
  ),
  contacts: z.array(z.object({ name: z.string(), numbers: z.array(z.string()) })),
  /** The last that was said in a conversation. */
  said: z.array(
    z.object({
      people: z.array(z.string()),
      source: z.string(),
      last: z.array(
        z.object({ at: z.iso.datetime(), isOwn: z.boolean(), from: z.string(), text: z.string() }),
      ),
    }),
  ),
  notes: z.array(z.object({ title: z.string(), text: z.string() })),
  screens: z.array(z.object({ pages: z.array(z.array(z.string())), dock: z.array(z.string()) })),
});
export type LookSamples = z.infer<typeof lookSamplesSchema>;
