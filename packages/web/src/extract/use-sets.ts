import { useQuery } from '@tanstack/react-query';
import type { Ticket } from '@bright-cellar/contract';
import { chatsOf, extractSetName, type ExtractSet } from '@bright-cellar/core';
import { queries } from '../api/queries.js';

/** The applications on a ticket's device, and what can be taken out of it by itself: its chats, application by application. */
export function useSets({ number, agreed, berth }: Ticket) {
  const mayAsk = agreed.backup && agreed.lookIn && berth !== null;
  const asked = useQuery({ ...queries.applications(number), enabled: mayAsk });
  const applications = asked.data ?? [];
  const chats = applications.filter((a) => a.chats);
  const sets = Object.fromEntries([
    ...(['messages', 'calls'] as const).map((set) => [set, extractSetName(set)]),
    ...chats.map((a) => [chatsOf(a.id), extractSetName(chatsOf(a.id), a.name)]),
  ]) as Readonly<Record<ExtractSet, string>>;
  return { applications, sets };
}
