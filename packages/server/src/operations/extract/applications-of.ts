import { Failure } from '@bright-cellar/core';
import { kindOf } from '@bright-cellar/core/formats';
import { agreedOf } from '../../agreements/index.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import { OPEN_FILE_NOT_AGREED } from './start.js';

/** The applications on a ticket's device. Which ones somebody uses says as much as what is in them. */
export async function applicationsOf({ db, bench, planning }: Context, number: string) {
  const { ticket, device } = await ticketForWork(db, number);
  const agreed = await agreedOf(db, ticket.id);
  if (!agreed.backup || !agreed.lookIn) {
    throw new Failure('not-agreed', { what: OPEN_FILE_NOT_AGREED });
  }
  const { entries, groups } = await planning.listed(await bench.presentDevice(device.serial));
  const chatting = new Set(
    entries
      .filter((e) => e.class === 'applications' && kindOf(e.format) === 'messages')
      .map(({ group }) => group),
  );
  return groups
    .filter((g) => g.class === 'applications')
    .map((group) => ({ ...group, chats: chatting.has(group.id) }));
}
