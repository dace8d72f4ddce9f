import type { Permission } from '@bright-cellar/core';
import type { z } from 'zod';

/** Who may call a route: anyone at all, or whoever is signed in and may do what it names. */
export type Access = 'anyone' | Permission;

/** One route of the API, as data: the server answers it, the web calls it, the OpenAPI document describes it. */
export interface Route<
  Params extends z.ZodType = z.ZodType,
  Query extends z.ZodType = z.ZodType,
  Body extends z.ZodType = z.ZodType,
  Response extends z.ZodType = z.ZodType,
  A extends Access = Access,
> {
  method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** With `:name` for each parameter. */
  path: string;
  summary: string;
  access: A;
  params: Params;
  query: Query;
  body: Body;
  response: Response;
  /** It tries a password: wrong ones are few. */
  triesPassword: boolean;
  /** It carries a choice of single items. */
  isLong: boolean;
}

/** What a caller sends: ids are known for what they are once they were parsed. */
export type ParamsInputOf<R> = R extends { params: infer P extends z.ZodType } ? z.input<P> : never;
export type ParamsOf<R> = R extends { params: infer P extends z.ZodType } ? z.infer<P> : never;
export type QueryOf<R> = R extends { query: infer Q extends z.ZodType } ? z.infer<Q> : never;
/** The query as a caller sends it: what is as usual need not be said. */
export type QueryInputOf<R> = R extends { query: infer Q extends z.ZodType } ? z.input<Q> : never;
/** The body as the server has it after parsing. */
export type BodyOf<R> = R extends { body: infer B extends z.ZodType } ? z.infer<B> : never;
export type BodyInputOf<R> = R extends { body: infer B extends z.ZodType } ? z.input<B> : never;
export type ResponseOf<R> = R extends { response: infer A extends z.ZodType } ? z.infer<A> : never;
