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

/** The header in which the head of what is streamed comes. */
export const HEAD_OF_STREAM = 'x-head';

/** An order that is answered by bytes, however many, after a head that says what they are. */
export interface StreamedOrder<
  Asks extends z.ZodType = z.ZodType,
  Head extends z.ZodType = z.ZodType,
> {
  name: string;
  asks: Asks;
  head: Head;
}

export const streamedOrder = <const Asks extends z.ZodType, const Head extends z.ZodType>(
  name: string,
  asks: Asks,
  head: Head,
): StreamedOrder<Asks, Head> => ({ name, asks, head });

/** An order that is answered by bytes, and who tells them. */
export interface HandledStream {
  name: string;
  open: (body: unknown) => Promise<{ head: unknown; bytes: AsyncIterable<Uint8Array> }>;
}

export const handledStream = <Asks extends z.ZodType, Head extends z.ZodType>(
  { name, asks, head }: StreamedOrder<Asks, Head>,
  open: (
    asked: z.output<Asks>,
  ) => Promise<{ head: z.input<Head>; bytes: AsyncIterable<Uint8Array> }>,
): HandledStream => ({
  name,
  open: async (body) => {
    const opened = await open(asks.parse(body));
    return { head: head.parse(opened.head), bytes: opened.bytes };
  },
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
