import { z } from 'zod';

/**
 * What the server has the work process do, over HTTP on a socket that only this user may open. Passwords cross it in
 * request bodies and are kept by neither side longer than the work takes.
 */
export interface Order<Asks extends z.ZodType = z.ZodType, Answers extends z.ZodType = z.ZodType> {
  name: string;
  asks: Asks;
  answers: Answers;
}

export const nothing = z.object({});

export const order = <const Asks extends z.ZodType, const Answers extends z.ZodType>(
  name: string,
  asks: Asks,
  answers: Answers,
): Order<Asks, Answers> => ({ name, asks, answers });

/** An order, and who does it. */
export interface Handled {
  name: string;
  handle: (body: unknown) => Promise<unknown>;
}

export const handled = <Asks extends z.ZodType, Answers extends z.ZodType>(
  { name, asks, answers }: Order<Asks, Answers>,
  handle: (asked: z.output<Asks>) => Promise<z.input<Answers>>,
): Handled => ({
  name,
  handle: async (body) => answers.parse(await handle(asks.parse(body))),
});

export const startOrder = order(
  'start',
  z.object({
    id: z.uuid(),
    password: z.string(),
    packagePassword: z.string(),
    fromFolder: z.string(),
  }),
  nothing,
);
export const stopOrder = order('stop', z.object({ id: z.uuid() }), nothing);
export const pauseOrder = order('pause', z.object({ id: z.uuid(), paused: z.boolean() }), nothing);

/** A line that the work process tells: an operation is further, or something was committed. */
export const toldSchema = z.object({ operation: z.uuid().nullable() });
export type Told = z.infer<typeof toldSchema>;
