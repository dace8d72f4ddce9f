import { handled, type Handled } from '../engine/orders.js';
import type { LookIns } from './look-ins.js';
import {
  beginLookInOrder,
  endLookInOrder,
  lookCallsOrder,
  lookContactsOrder,
  lookConversationsOrder,
  lookedOrder,
  lookFilesOrder,
  lookMessagesOrder,
  lookPictureOrder,
  lookSearchOrder,
  openLookInsOrder,
} from './orders.js';

const rowsShown = ({ rows }: { rows: readonly unknown[] }) => ({ shown: rows.length });

/** What the work process does with look-ins on the server's word. */
export function lookInOrders(lookIns: LookIns): Handled[] {
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
    handled(lookContactsOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.contacts(asked.text, asked.from), rowsShown),
    ),
    handled(lookCallsOrder, (asked) =>
      lookIns.read(asked, (looked) => looked.calls(asked.text, asked.from), rowsShown),
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
