import type { DeviceLink } from '@bright-cellar/device-link';
import { handled, handledStream, type Handled, type HandledStream } from '../engine/orders.js';
import type { LookIns } from './look-ins.js';
import {
  basketOrder,
  beginLookInOrder,
  compareOrder,
  comparisonOrder,
  differencesOrder,
  endLookInOrder,
  lookConversationsOrder,
  lookedOrder,
  lookFilesOrder,
  lookMediaOrder,
  lookMessagesOrder,
  lookPictureOrder,
  lookSearchOrder,
  lookShelfOrder,
  lookTextOrder,
  openLookInsOrder,
  pickOrder,
  prepareTakeOutOrder,
  putBackOrder,
  searchShelvesOrder,
  takeOutOrder,
  takeOutStateOrder,
} from './orders.js';

const rowsShown = ({ rows }: { rows: readonly unknown[] }) => ({ shown: rows.length });

/** What the work process does with look-ins on the server's word. */
export function lookInOrders(lookIns: LookIns, link: DeviceLink): Handled[] {
  return [
    handled(beginLookInOrder, async (asked) => {
      await lookIns.begin(asked);
      return {};
    }),
    handled(endLookInOrder, async (asked) => {
      await lookIns.end(asked);
      return {};
    }),
    handled(openLookInsOrder, async () => lookIns.open()),
    handled(lookedOrder, (asked) => lookIns.read(asked, (looked) => looked.amounts())),
    handled(lookConversationsOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.conversations(asked.text), rowsShown),
    ),
    handled(lookMessagesOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.messages(asked.conversation, asked.from, asked.atMost),
        rowsShown,
      ),
    ),
    handled(lookSearchOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.search(asked.text, asked.within), rowsShown),
    ),
    handled(lookFilesOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.files(asked.class, asked.text, asked.from), rowsShown),
    ),
    handled(lookShelfOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.shelf(asked.shelf, asked.text, asked.from), rowsShown),
    ),
    handled(searchShelvesOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.everywhere(asked.text),
        (parts) => ({ shown: parts.reduce((sum, { rows }) => sum + rows.length, 0) }),
      ),
    ),
    handled(lookTextOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.text(asked.item),
        () => ({ opened: 1 }),
      ),
    ),
    handled(compareOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.compare(asked.with, link)),
    ),
    handled(comparisonOrder, (asked) => lookIns.read(asked, ({ comparing }) => comparing.state())),
    handled(differencesOrder, (asked) =>
      lookIns.read(
        asked,
        ({ comparing }) => comparing.items(asked.class, asked.change, asked.from),
        rowsShown,
      ),
    ),
    handled(basketOrder, (asked) => lookIns.read(asked, ({ basket }) => basket.inHand())),
    handled(pickOrder, (asked) =>
      lookIns.read(asked, ({ basket }) => {
        basket.add(asked.picks);
        return basket.inHand();
      }),
    ),
    handled(putBackOrder, (asked) =>
      lookIns.read(asked, ({ basket }) => {
        basket.putBack(asked.keys);
        return basket.inHand();
      }),
    ),
    handled(prepareTakeOutOrder, (asked) =>
      lookIns.read(asked, ({ basket, takeOuts }) => ({
        id: takeOuts.prepare(basket.hand(), asked),
      })),
    ),
    handled(takeOutStateOrder, (asked) =>
      lookIns.read(asked, ({ takeOuts }) => takeOuts.state(asked.takeOut)),
    ),
    handled(lookPictureOrder, (asked) =>
      lookIns.read(
        asked,
        async (looked) => ({
          webp: (await looked.picture(asked.item, asked.pixels)).toString('base64'),
        }),
        () => ({ opened: 1 }),
      ),
    ),
  ];
}

/** What the work process tells in bytes, of look-ins. */
export function lookInStreams(lookIns: LookIns): HandledStream[] {
  return [
    handledStream(lookMediaOrder, (asked) =>
      lookIns.stream(asked, (looked) => looked.played(asked.item, asked.from, asked.to), {
        // A player asks for the same again and again, from elsewhere.
        opened: asked.from === 0 ? 1 : 0,
      }),
    ),
    handledStream(takeOutOrder, (asked) => lookIns.takeOut(asked)),
  ];
}
