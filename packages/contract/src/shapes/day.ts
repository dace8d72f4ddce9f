import { instantSchema as instant, byteCountSchema as byteCount } from '@bright-cellar/core';
import { z } from 'zod';

/** What whoever opens or closes the shop has to know. */
export const daySheetsSchema = z.enum(['opening', 'closing']);

export const daySheetSchema = z.object({
  which: daySheetsSchema,
  at: instant,
  /** What to do first. */
  now: z.string(),
  sections: z.array(
    z.object({
      title: z.string(),
      /** `to`: where in the application it is looked after. */
      lines: z.array(z.object({ name: z.string(), text: z.string(), to: z.string().nullable() })),
      /** Said where there are no lines. */
      empty: z.string(),
    }),
  ),
});

export type DaySheet = z.infer<typeof daySheetSchema>;

/** One day of the bench. */
export const dayReportSchema = z.object({
  /** 0 to 23, shop time. */
  hours: z.array(z.object({ hour: z.int(), bytes: byteCount, runs: z.int(), failed: z.int() })),
  /** The shop’s last backups that were estimated, the oldest first; errors relative to what was expected. */
  estimates: z.array(
    z.object({
      at: instant,
      ticketNumber: z.string().nullable(),
      storedError: z.number(),
      timeError: z.number(),
      storedInRange: z.boolean(),
      timeInRange: z.boolean(),
    }),
  ),
});

export type DayReport = z.infer<typeof dayReportSchema>;
