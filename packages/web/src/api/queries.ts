import { queryOptions, type QueryClient } from '@tanstack/react-query';
import { routes, type Operation } from '@bright-cellar/contract';
import { isOver } from '@bright-cellar/core';
import { call, rememberCsrfToken } from './call.js';

/** Everything the screens read, under one key each. What the server tells live is put under the same keys. */
export const queries = {
  session: () =>
    queryOptions({
      queryKey: ['session'],
      queryFn: async () => {
        const session = await call(routes.session);
        rememberCsrfToken(session?.csrfToken ?? '');
        return session;
      },
      retry: false,
      staleTime: Infinity,
    }),
  bench: () => queryOptions({ queryKey: ['bench'], queryFn: () => call(routes.bench) }),
  operations: () =>
    queryOptions({ queryKey: ['operations'], queryFn: () => call(routes.operations) }),
  operation: (id: string) =>
    queryOptions({
      queryKey: ['operation', id],
      queryFn: () => call(routes.operation, { params: { id } }),
    }),
  racks: () => queryOptions({ queryKey: ['racks'], queryFn: () => call(routes.racks) }),
  tickets: () =>
    queryOptions({ queryKey: ['tickets', 'list'], queryFn: () => call(routes.tickets) }),
  ticket: (number: string) =>
    queryOptions({
      queryKey: ['tickets', number],
      queryFn: () => call(routes.ticket, { params: { number } }),
    }),
  packages: () =>
    queryOptions({ queryKey: ['racks', 'packages'], queryFn: () => call(routes.packages) }),
  archives: () =>
    queryOptions({ queryKey: ['archives', 'list'], queryFn: () => call(routes.archives) }),
  archive: (id: string) =>
    queryOptions({
      queryKey: ['archives', id],
      queryFn: () => call(routes.archive, { params: { id } }),
    }),
  restoreTarget: (id: string, deviceId: string) =>
    queryOptions({
      queryKey: ['bench', 'target', id, deviceId],
      queryFn: () => call(routes.restoreTarget, { params: { id, deviceId } }),
      retry: false,
    }),
  eraseReadiness: (deviceId: string) =>
    queryOptions({
      queryKey: ['bench', 'erase', deviceId],
      queryFn: () => call(routes.eraseReadiness, { params: { deviceId } }),
      retry: false,
    }),
  applications: (number: string) =>
    queryOptions({
      queryKey: ['applications', number],
      queryFn: () => call(routes.applications, { params: { number } }),
      retry: false,
    }),
  recoveredFolders: () =>
    queryOptions({
      queryKey: ['racks', 'recovered'],
      queryFn: () => call(routes.recoveredFolders),
      // Somebody may just have put it there, from another computer.
      refetchInterval: 5_000,
    }),
  recoveredSize: (folder: { rackId: string; name: string }) =>
    queryOptions({
      queryKey: ['racks', 'recovered', folder],
      queryFn: () => call(routes.measureRecovered, { body: folder }),
      retry: false,
    }),
  escrow: () => queryOptions({ queryKey: ['escrow'], queryFn: () => call(routes.escrow) }),
  regularWork: () =>
    queryOptions({ queryKey: ['schedules'], queryFn: () => call(routes.regularWork) }),
  dayReport: (day: string) =>
    queryOptions({
      queryKey: ['reports', day],
      queryFn: () => call(routes.dayReport, { query: { day } }),
    }),
  account: () =>
    queryOptions({ queryKey: ['account'], queryFn: () => call(routes.account), staleTime: 0 }),
  settings: () => queryOptions({ queryKey: ['settings'], queryFn: () => call(routes.settings) }),
  knownVisits: (deviceId: string) =>
    queryOptions({
      queryKey: ['bench', 'visits', deviceId],
      queryFn: () => call(routes.knownVisits, { params: { deviceId } }),
    }),
  listing: (number: string, revision: string) =>
    queryOptions({
      queryKey: ['listing', number, revision],
      queryFn: () => call(routes.listing, { params: { number } }),
      staleTime: Infinity,
      gcTime: 60_000,
      retry: false,
    }),
  desk: (number: string) =>
    queryOptions({
      queryKey: ['tickets', number, 'desk'],
      queryFn: () => call(routes.desk, { params: { number } }),
    }),
  plans: (number: string) =>
    queryOptions({
      queryKey: ['plans', number],
      queryFn: () => call(routes.plans, { params: { number } }),
    }),
  customers: (text: string) =>
    queryOptions({
      queryKey: ['customers', text],
      queryFn: () => call(routes.customers, { query: { text } }),
      enabled: text.trim().length > 1,
    }),
  found: (text: string) =>
    queryOptions({
      queryKey: ['found', text],
      queryFn: () => call(routes.find, { query: { text } }),
      enabled: text.trim().length > 0,
    }),
};

/** Puts an operation where every screen that shows it will look. */
export function placeOperation(client: QueryClient, operation: Operation): void {
  client.setQueryData(queries.operation(operation.id).queryKey, operation);
  client.setQueryData(queries.operations().queryKey, (known: Operation[] | undefined) => {
    const others = (known ?? []).filter((o) => o.id !== operation.id);
    return isOver(operation.state) ? others : [...others, operation];
  });
}

/** Nobody is signed in any more: shows the door, and keeps nothing that was read. */
export function forgetShop(client: QueryClient): void {
  const { queryKey } = queries.session();
  client.setQueryData(queryKey, null);
  client.removeQueries({ predicate: (query) => query.queryKey[0] !== queryKey[0] });
}
