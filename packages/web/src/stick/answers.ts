import {
  routes,
  type BodyOf,
  type ParamsOf,
  type QueryOf,
  type ResponseOf,
  type Route,
} from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import type { Looked } from '@bright-cellar/look';

/** A call, as it was made. */
export interface Called {
  method: string;
  path: string;
  params: unknown;
  query: unknown;
  body: unknown;
}

type Answer = (looked: Looked, called: Called) => unknown;
const answers = new Map<string, Answer>();

/** What a route is answered with, as the server does at the counter. */
function here<R extends Route>(
  route: R,
  answer: (
    looked: Looked,
    asked: { params: ParamsOf<R>; query: QueryOf<R>; body: BodyOf<R> },
  ) => ResponseOf<R> | Promise<ResponseOf<R>>,
): void {
  answers.set(`${route.method} ${route.path}`, (looked, { params, query, body }) =>
    answer(looked, {
      params: route.params.parse(params ?? {}) as ParamsOf<R>,
      query: route.query.parse(query ?? {}) as QueryOf<R>,
      body: route.body.parse(body ?? {}) as BodyOf<R>,
    }),
  );
}

/** @throws Failure `not-found` where a stick has no answer */
export async function answered(looked: Looked, called: Called): Promise<unknown> {
  const answer = answers.get(`${called.method} ${called.path}`);
  if (!answer) throw new Failure('not-found');
  return answer(looked, called);
}

const MESSAGES_AT_ONCE = 200;

here(routes.lookAmounts, (looked) => looked.amounts());
here(routes.lookConversations, (looked, { body }) => looked.conversations(body.text));
here(routes.lookMessages, (looked, { params, query }) =>
  looked.messages(params.conversation, query.from, MESSAGES_AT_ONCE),
);
here(routes.searchLookIn, (looked, { body }) => looked.search(body.text, body.within));
here(routes.lookFiles, (looked, { body }) => looked.files(body.class, body.text, body.from));
here(routes.lookShelf, (looked, { params, body }) =>
  looked.shelf(params.shelf, body.text, body.from),
);
here(routes.searchShelves, (looked, { body }) => looked.everywhere(body.text));
here(routes.lookText, (looked, { body }) => looked.text(body.item));
here(routes.lookBasket, ({ basket }) => basket.inHand());
here(routes.pickInLook, ({ basket }, { body }) => {
  basket.add(body.picks);
  return basket.inHand();
});
here(routes.putBackInLook, ({ basket }, { body }) => {
  basket.putBack(body.keys);
  return basket.inHand();
});
here(routes.takeOut, ({ basket, takeOuts }, { body }) => ({
  id: takeOuts.prepare(basket.hand(), body),
}));
here(routes.takeOutState, ({ takeOuts }, { params }) => takeOuts.state(params.takeOut));
