import type { DeviceLink } from '@bright-cellar/device-link';
import { shelfClasses } from '@bright-cellar/contract';
import type { DataClass } from '@bright-cellar/core';
import { handled, handledStream, type Handled, type HandledStream } from '../engine/orders.js';
import type { Counted, LookIns } from './look-ins.js';
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
  lookSamplesOrder,
  lookShelfOrder,
  lookTextOrder,
  openLookInsOrder,
  pickOrder,
  prepareTakeOutOrder,
  putBackOrder,
  searchShelvesOrder,
  takeOutOrder,
  takeOutStateOrder,
  takeOutToRackOrder,
} from './orders.js';

/** Rows are counted, as of the classes that they are of. */
const rowsOf =
  (...of: DataClass[]) =>
  ({ rows }: { rows: readonly unknown[] }): Counted => ({ shown: rows.length, of });

/** What the work process does with look-ins on the server's word. */
export function lookInOrders(lookIns: LookIns, link: DeviceLink): Handled[] {
  return [
    handled(beginLookInOrder, async (asked) => ({ id: await lookIns.begin(asked) })),
    handled(endLookInOrder, async (asked) => {
      await lookIns.end(asked);
      return {};
    }),
    handled(openLookInsOrder, async () => lookIns.open()),
    handled(lookedOrder, (asked) => lookIns.read(asked, (looked) => looked.amounts())),
    handled(lookConversationsOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.conversations(asked.text), rowsOf('messages')),
    ),
    handled(lookMessagesOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.messages(asked.conversation, asked.from, asked.atMost),
        rowsOf('messages'),
      ),
    ),
    handled(lookSearchOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.search(asked.text, asked.within), rowsOf('messages')),
    ),
    handled(lookFilesOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.files(asked.class, asked.text, asked.from),
        rowsOf(asked.class),
      ),
    ),
    handled(lookSamplesOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.samples(Math.random),
        (drawn) => ({
          shown: Object.values(drawn).reduce((sum, some) => sum + some.length, 0),
          of: ['photographs', 'contacts', 'messages', 'notes', 'settings'],
        }),
      ),
    ),
    handled(lookShelfOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.shelf(asked.shelf, asked.text, asked.from),
        rowsOf(shelfClasses[asked.shelf]),
      ),
    ),
    handled(searchShelvesOrder, (asked) =>
      lookIns.read(
        asked,
        (looked) => looked.everywhere(asked.text),
        (parts) => ({
          shown: parts.reduce((sum, { rows }) => sum + rows.length, 0),
          of: parts.map(({ shelf }) => shelfClasses[shelf]),
        }),
      ),
    ),
    handled(lookTextOrder, (asked) =>
      lookIns.read(
        asked,
        async (looked) => ({ ...(await looked.text(asked.item)), of: looked.classOf(asked.item) }),
        ({ of }) => ({ opened: 1, of }),
      ),
    ),
    handled(compareOrder, (asked) =>
      lookIns.read(asked, (looked) =>
        looked.compare(asked.with, { link, open: (other) => lookIns.openOther(other) }),
      ),
    ),
    handled(comparisonOrder, (asked) => lookIns.read(asked, ({ comparing }) => comparing.state())),
    handled(differencesOrder, (asked) =>
      lookIns.read(
        asked,
        ({ comparing }) => comparing.items(asked.class, asked.change, asked.from),
        (told) => ({ shown: told.rows.length, of: told.rows.map((row) => row.class) }),
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
    handled(takeOutToRackOrder, (asked) => lookIns.takeOutToRack(asked)),
    handled(lookPictureOrder, (asked) =>
      lookIns.read(
        asked,
        async (looked) => ({
          webp: (await looked.drawn(asked.pictured, asked.pixels)).toString('base64'),
          of: looked.classesOf(asked.pictured),
        }),
        ({ of }) => ({ opened: 1, of }),
      ),
    ),
  ];
}

/** What the work process tells in bytes, of look-ins. */
export function lookInStreams(lookIns: LookIns): HandledStream[] {
  return [
    handledStream(lookMediaOrder, (asked) =>
      lookIns.stream(
        asked,
        (looked) => ({
          ...looked.played(asked.item, asked.from, asked.to),
          of: looked.classOf(asked.item),
        }),
        // A player asks for the same again and again, from elsewhere.
        ({ of }) => ({ opened: asked.from === 0 ? 1 : 0, of }),
      ),
    ),
    handledStream(takeOutOrder, (asked) => lookIns.takeOut(asked)),
  ];
}
