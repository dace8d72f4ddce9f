import { z } from 'zod';

/** From one day until another, both of them in; null: no end there. */
export const daySpanSchema = z.object({
  since: z.iso.date().nullable(),
  until: z.iso.date().nullable(),
});
export type DaySpan = z.infer<typeof daySpanSchema>;
export const anyDay: DaySpan = { since: null, until: null };

/** Whether a moment (ms since 1970) is of the days that were chosen. @param zone whose days they are */
export function daysWanted({ since, until }: DaySpan, zone: string): (at: number) => boolean {
  if (since === null && until === null) return () => true;
  // The Swedish way to write a day is that of ISO 8601.
  const day = new Intl.DateTimeFormat('sv-SE', { timeZone: zone });
  return (at) => {
    const said = day.format(at);
    return said >= (since ?? '') && said <= (until ?? '9999');
  };
}
