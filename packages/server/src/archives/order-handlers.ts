import {
  changePassword,
  compareWithArchive,
  discardRun,
  newEscrow,
  OpenArchive,
  openEscrow,
  trySecret,
  weighPruning,
  withPassword,
  type Secret,
} from '@bright-cellar/archive';
import { isChosen, type CopyId } from '@bright-cellar/core';
import type { DeviceLink } from '@bright-cellar/device-link';
import { deviceItems } from './device-items.js';
import { handled, type Handled } from '../engine/orders.js';
import type { Acting } from '../kernel/unit-of-work.js';
import { archiveAt } from '../racks/index.js';
import { changeCopy, copyFiles, withdrawFromCopy, type CopyChange } from './copy-changes.js';
import {
  changePasswordOrder,
  compareOrder,
  discardOrder,
  newEscrowOrder,
  openByEscrowOrder,
  tryPasswordOrder,
  weighPruningOrder,
  withdrawEscrowOrder,
} from './orders.js';

/** What the work process does with archives on the server's word, beside operations. */
export function archiveOrders(acting: Acting, link: DeviceLink): Handled[] {
  const { db } = acting;
  /** Gives a copy another password, whoever opens it. */
  const exchange = async (
    {
      copyId,
      newPassword,
      change,
    }: { copyId: CopyId; newPassword: string; change: Omit<CopyChange, 'state'> },
    secret: Secret,
  ) => {
    const archive = await OpenArchive.open(await copyFiles(db, copyId), secret);
    try {
      await changeCopy(acting, copyId, change, (beforeDeciding) =>
        changePassword(archive, newPassword, beforeDeciding),
      );
    } finally {
      await archive.close();
    }
    return {};
  };
  return [
    handled(tryPasswordOrder, async ({ password, ...place }) => {
      await trySecret(await archiveAt(db, place), withPassword(password));
      return {};
    }),
    handled(changePasswordOrder, ({ password, ...order }) =>
      exchange(order, withPassword(password)),
    ),
    handled(compareOrder, async ({ password, device, choice, ...place }) => {
      const ids: string[] = [];
      const items = async function* () {
        for await (const { entry, item } of deviceItems(link, device)) {
          if (isChosen(choice, entry)) yield { ...item, id: entry.id };
        }
      };
      const compared = await compareWithArchive(
        await archiveAt(db, place),
        withPassword(password),
        items(),
        ({ id }) => ids.push(id),
      );
      return { ...compared, ids };
    }),
    handled(newEscrowOrder, async ({ phrases }) => {
      const { recipient, sealed } = await newEscrow(phrases);
      return { recipient, sealed: Buffer.from(sealed).toString('base64') };
    }),
    handled(openByEscrowOrder, async ({ sealed, phrases, ...order }) => {
      const identity = await openEscrow(Buffer.from(sealed, 'base64'), phrases);
      return exchange(order, { kind: 'escrow', identity });
    }),
    handled(withdrawEscrowOrder, async ({ copyId }) => {
      await withdrawFromCopy(acting, copyId);
      return {};
    }),
    handled(weighPruningOrder, async ({ password, keep, ...place }) => {
      const archive = await OpenArchive.open(await archiveAt(db, place), withPassword(password), {
        lease: 'shared',
      });
      try {
        return { freedBytes: await weighPruning(archive, keep) };
      } finally {
        await archive.close();
      }
    }),
    handled(discardOrder, async ({ backup, ...place }) => {
      await discardRun(await archiveAt(db, place), backup);
      return {};
    }),
  ];
}
