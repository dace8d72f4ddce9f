import { z } from 'zod';

/** What a column of an open file can be. */
export const columnRoles = ['at', 'from', 'to', 'thread', 'text'] as const;
export type ColumnRole = (typeof columnRoles)[number];
export const columnRoleNames: Record<ColumnRole, string> = {
  at: 'When',
  from: 'Who said it',
  to: 'To whom',
  thread: 'The conversation',
  text: 'What was said',
};

/** How moments are told: by themselves, or with the day or the month first. */
export const dateOrders = ['plain', 'day-first', 'month-first'] as const;
export const dateOrderNames: Record<(typeof dateOrders)[number], string> = {
  plain: 'As they say it themselves',
  'day-first': 'Day first: 25/11/2026 14:05',
  'month-first': 'Month first: 11/25/2026 14:05',
};

/** How a file is to be read. */
export const mappingSchema = z.object({
  /** Null: there is none. */
  columns: z.record(z.enum(columnRoles), z.string().max(400).nullable()),
  dates: z.enum(dateOrders),
});
export type Mapping = z.infer<typeof mappingSchema>;

/** Why a line does not come back; each a sentence. */
export const leftOutReasons = {
  'no-moment': 'Nobody can tell when it was.',
  nobody: 'Nobody can tell who said it, or to whom.',
  'unknown-name': 'It has a name without a number.',
  'no-words': 'It says nothing.',
} as const;
export type LeftOutReason = keyof typeof leftOutReasons;
export const leftOutReasonIds = Object.keys(leftOutReasons) as [LeftOutReason, ...LeftOutReason[]];
