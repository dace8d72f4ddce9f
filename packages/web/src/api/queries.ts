import { queryOptions, type QueryClient, type QueryFilters } from '@tanstack/react-query';
import {
  routes,
  type ArchiveSort,
  type BenchView,
  type DaySheet,
  type HandoverLanguage,
  type Operation,
  type QueryInputOf,
  type RackCopySort,
  type RunSort,
  type TicketSort,
} from '@bright-cellar/contract';
import { isOver, type RackId } from '@bright-cellar/core';
import { wholeStock } from '@bright-cellar/core/placement';
import { call, rememberCsrfToken } from './call.js';

/** What of a list is looked at, and in which order. */
export interface ListAsk<Sort extends string> {
  text: string;
  sort: Sort;
  order: 'asc' | 'desc';
}

/** A part of a list, and where it goes on. */
export interface ListPage<Row> {
  rows: Row[];
  next: string | null;
  total: number;
  /** What was looked for instead, where nothing has a word that was typed; empty otherwise. */
  readAs?: string;
}

/** A list that the server searches, sorts and hands out a page at a time. */
export interface PagedList<Row, Sort extends string> {
  queryKey: readonly string[];
  page: (ask: ListAsk<Sort>, after: string) => Promise<ListPage<Row>>;
}

/** Everything the screens read, under one key each. What the server tells live is put under the same keys. */
export const queries = {
  setUp: () =>
    queryOptions({ queryKey: ['set-up'], queryFn: () => call(routes.setUp), staleTime: Infinity }),
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
  atThisCounter: () =>
    queryOptions({
      queryKey: ['set-up', 'counter'],
      queryFn: () => call(routes.atThisCounter),
      staleTime: 0,
      retry: false,
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
  elevations: () =>
    queryOptions({ queryKey: ['racks', 'elevations'], queryFn: () => call(routes.elevations) }),
  due: () => queryOptions({ queryKey: ['archives', 'due'], queryFn: () => call(routes.due) }),
  crossingExamples: (id: string) =>
    queryOptions({
      queryKey: ['operations', id, 'examples'],
      queryFn: () => call(routes.crossingExamples, { params: { id } }),
      // What customers wrote is not kept for anybody who does not look at it.
      ...{ staleTime: Infinity, gcTime: 0, retry: false },
    }),
  applicationPackages: (number: string) =>
    queryOptions({
      queryKey: ['tickets', number, 'application-packages'],
      queryFn: () => call(routes.applicationPackages, { params: { number } }),
      staleTime: 0,
    }),
  handoverSheet: (number: string, language: HandoverLanguage) =>
    queryOptions({
      queryKey: ['tickets', number, 'handover', language],
      queryFn: () => call(routes.handoverSheet, { params: { number }, query: { language } }),
      staleTime: 0,
    }),
  keeping: (id: string) =>
    queryOptions({
      queryKey: ['archives', id, 'keeping'],
      queryFn: () => call(routes.keeping, { params: { id } }),
    }),
  stock: (also?: RackId) =>
    queryOptions({
      queryKey: ['racks', 'stock', also ?? ''],
      queryFn: async ({ signal }) =>
        wholeStock(await call(routes.stock), also, (on, after) => {
          signal.throwIfAborted();
          return call(routes.stockPage, { query: { on: on.join(','), after } });
        }),
    }),
  plannedMoves: () =>
    queryOptions({ queryKey: ['racks', 'planned'], queryFn: () => call(routes.plannedMoves) }),
  lastMove: () =>
    queryOptions({ queryKey: ['racks', 'moves', 'last'], queryFn: () => call(routes.lastMove) }),
  moveSteps: (id: string) =>
    queryOptions({
      queryKey: ['racks', 'moves', id],
      queryFn: () => call(routes.moveSteps, { params: { id } }),
    }),
  care: () => queryOptions({ queryKey: ['care'], queryFn: () => call(routes.care) }),
  rackLooks: (id: string) =>
    queryOptions({
      queryKey: ['racks', id, 'looks'],
      queryFn: () => call(routes.rackLooks, { params: { id } }),
    }),
  savedViews: () =>
    queryOptions({ queryKey: ['account', 'views'], queryFn: () => call(routes.savedViews) }),
  strangers: (path: string) =>
    queryOptions({
      queryKey: ['racks', 'strangers', path],
      queryFn: () => call(routes.strangers, { query: { path } }),
    }),
  rackPlaces: () =>
    queryOptions({
      queryKey: ['racks', 'places'],
      queryFn: () => call(routes.rackPlaces),
      // Somebody may just be plugging it in.
      refetchInterval: 3_000,
    }),
  lookIns: () =>
    queryOptions({
      queryKey: ['look-ins'],
      queryFn: () => call(routes.lookIns),
      // When each closes itself moves on as it is read.
      refetchInterval: ({ state }) => (state.data?.length ? 20_000 : false),
    }),
  adapter: () =>
    queryOptions({ queryKey: ['settings', 'adapter'], queryFn: () => call(routes.adapter) }),
  logo: () => queryOptions({ queryKey: ['settings', 'logo'], queryFn: () => call(routes.logo) }),
  storagePlaces: () =>
    queryOptions({
      queryKey: ['bench', 'storage'],
      queryFn: () => call(routes.storagePlaces),
      // Somebody may just be plugging it in.
      refetchInterval: 3_000,
    }),
  storageFolders: (path: string) =>
    queryOptions({
      queryKey: ['bench', 'storage', path],
      queryFn: () => call(routes.storageFolders, { body: { path } }),
      retry: false,
    }),
  rack: (id: string) =>
    queryOptions({
      queryKey: ['racks', id],
      queryFn: () => call(routes.rack, { params: { id } }),
    }),
  rackCopies: (id: string) => ({
    queryKey: ['racks', id, 'copies'],
    page: ({ sort, order }: ListAsk<RackCopySort>, after: string) =>
      call(routes.rackCopies, { params: { id }, query: { sort, order, after } }),
  }),
  /** Every list of tickets. */
  tickets: () => ({
    queryKey: ['tickets', 'list'],
    page: (ask: ListAsk<TicketSort>, after: string) =>
      call(routes.tickets, { query: { ...ask, after } }),
  }),
  /** Open tickets by their numbers. */
  ticketsOf: (numbers: readonly string[]) =>
    queryOptions({
      queryKey: ['tickets', 'list', 'only', numbers],
      queryFn: () => call(routes.tickets, { query: { only: numbers.join(',') } }),
      enabled: numbers.length > 0,
    }),
  ticket: (number: string) =>
    queryOptions({
      queryKey: ['tickets', number],
      queryFn: () => call(routes.ticket, { params: { number } }),
    }),
  packages: () =>
    queryOptions({ queryKey: ['racks', 'packages'], queryFn: () => call(routes.packages) }),
  /** Every list of archives, and what they come to. */
  archives: () => ({
    queryKey: ['archives', 'list'],
    page: (ask: ListAsk<ArchiveSort>, after: string) =>
      call(routes.archives, { query: { ...ask, after } }),
  }),
  archivesSummary: () =>
    queryOptions({
      queryKey: ['archives', 'list', 'summary'],
      queryFn: () => call(routes.archivesSummary),
    }),
  archive: (id: string) =>
    queryOptions({
      queryKey: ['archives', id],
      queryFn: () => call(routes.archive, { params: { id } }),
    }),
  restoreChoices: (id: string) =>
    queryOptions({
      queryKey: ['archives', 'beside', id],
      queryFn: () => call(routes.restoreChoices, { params: { id } }),
    }),
  ticketRestoreChoices: (number: string) =>
    queryOptions({
      queryKey: ['archives', 'restorable', number],
      queryFn: () => call(routes.ticketRestoreChoices, { params: { number } }),
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
  dayRuns: (day: string) => ({
    queryKey: ['reports', day, 'runs'],
    page: ({ sort, order }: ListAsk<RunSort>, after: string) =>
      call(routes.dayRuns, { query: { day, sort, order, after } }),
  }),
  account: () =>
    queryOptions({ queryKey: ['account'], queryFn: () => call(routes.account), staleTime: 0 }),
  roles: () => queryOptions({ queryKey: ['account', 'roles'], queryFn: () => call(routes.roles) }),
  people: () =>
    queryOptions({ queryKey: ['account', 'people'], queryFn: () => call(routes.people) }),
  record: (ask: Required<QueryInputOf<typeof routes.audit>>) => ({
    queryKey: ['record', ...Object.values(ask)],
    page: (after: string) => call(routes.audit, { query: { ...ask, after } }),
  }),
  recordHead: () =>
    queryOptions({
      queryKey: ['record', 'head'],
      queryFn: () => call(routes.auditHead),
      staleTime: 0,
    }),
  customerData: (id: string) =>
    queryOptions({
      queryKey: ['tickets', 'customer', id],
      queryFn: () => call(routes.customerData, { params: { id } }),
      retry: false,
    }),
  daySheet: (which: DaySheet['which']) =>
    queryOptions({
      queryKey: ['day', which],
      queryFn: () => call(routes.daySheet, { query: { which } }),
      staleTime: 0,
    }),
  condition: () =>
    queryOptions({
      queryKey: ['condition'],
      queryFn: () => call(routes.condition),
      staleTime: 0,
      refetchInterval: 30_000,
    }),
  saves: () =>
    queryOptions({ queryKey: ['racks', 'saves'], queryFn: () => call(routes.saves), staleTime: 0 }),
  network: () =>
    queryOptions({ queryKey: ['network'], queryFn: () => call(routes.network), staleTime: 0 }),
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

/**
 * Puts an operation where every screen that shows it will look. What was asked before it ended and is answered after that
 * is not what it is any more.
 */
function place(client: QueryClient, operation: Operation): void {
  const known = client.getQueryData(queries.operation(operation.id).queryKey);
  // One that goes on from where it ended begins at another time.
  const isStale =
    known !== undefined &&
    isOver(known.state) &&
    !isOver(operation.state) &&
    known.startedAt === operation.startedAt;
  if (isStale) return;
  client.setQueryData(queries.operation(operation.id).queryKey, operation);
  client.setQueryData(queries.operations().queryKey, (known: Operation[] | undefined) => {
    const others = (known ?? []).filter((o) => o.id !== operation.id);
    return isOver(operation.state) ? others : [...others, operation];
  });
}

const whereShown = ({ id }: Operation) =>
  [queries.operations(), queries.operation(id)].map(({ queryKey }) => ({ queryKey, exact: true }));

/** Puts an operation there that was answered to whoever asked for it. Where more was told of it meanwhile, it is asked for again. */
export function placeOperation(client: QueryClient, operation: Operation): void {
  const isKnown = client.getQueryData(queries.operation(operation.id).queryKey) !== undefined;
  place(client, operation);
  if (isKnown) for (const asked of whereShown(operation)) void client.invalidateQueries(asked);
}

/**
 * Puts an operation there as it was told to be now. An answer that is still on its way may be older: what it was asked for is
 * asked once more.
 */
export function placeTold(client: QueryClient, operation: Operation): void {
  place(client, operation);
  for (const asked of whereShown(operation)) {
    if (client.isFetching(asked) === 0) continue;
    void client
      .refetchQueries(asked, { cancelRefetch: false })
      .then(() => client.invalidateQueries(asked));
  }
}

/** An answer that is still on its way was given before: it would say what is over. */
const hearNoMoreOf = (client: QueryClient, asked: QueryFilters) => void client.cancelQueries(asked);

/** Puts what the bench is now where it is shown. */
export function placeBench(client: QueryClient, bench: BenchView): void {
  const { queryKey } = queries.bench();
  hearNoMoreOf(client, { queryKey, exact: true });
  client.setQueryData(queryKey, bench);
}

/** The screen is locked: what it shows stays where it is, behind the lock. */
export function lockShop(client: QueryClient): void {
  hearNoMoreOf(client, queries.session());
  client.setQueryData(queries.session().queryKey, (known) => known && { ...known, locked: true });
}

/** Nobody is signed in any more: shows the door, and keeps nothing that was read. */
export function forgetShop(client: QueryClient): void {
  const { queryKey } = queries.session();
  hearNoMoreOf(client, queries.session());
  client.setQueryData(queryKey, null);
  // Who stands before the door asks for nothing else, and for these already.
  const outside: readonly unknown[] = [...queryKey, ...queries.setUp().queryKey];
  client.removeQueries({ predicate: (query) => !outside.includes(query.queryKey[0]) });
}
