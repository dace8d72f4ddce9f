import { Failure, type PartnerSite } from '@bright-cellar/core';
import { syncedKinds } from '@bright-cellar/core';
import { mediaTypes } from '@bright-cellar/core/formats';
import { bookFormats } from '@bright-cellar/core/merge';
import { createDAVClient, DAVNamespaceShort, getBasicAuthHeaders, type DAVResponse } from 'tsdav';
import { within } from '../kernel/within.js';
import type { Partner, PartnerCollection, PartnerResource } from './partner.js';

type Client = Awaited<ReturnType<typeof createDAVClient>>;

/** No answer takes longer, or is longer. */
const ANSWER_MS = 60_000;
const ANSWER_MAX_BYTES = 256 * 1024 ** 2;
/** So many at a time: some servers refuse longer lists. */
const AT_ONCE = 200;

/**
 * A server that speaks CardDAV (RFC 6352) and CalDAV (RFC 4791).
 * @param password held by whoever holds this, and nowhere else
 * @param signal ends whatever is asked
 */
export function davPartner(
  { address, user }: PartnerSite,
  password: string,
  signal: AbortSignal,
): Partner {
  const asks = careful(new URL(address).origin, signal);
  const client = (defaultAccountType: 'carddav' | 'caldav') =>
    meant(() =>
      createDAVClient({
        ...{ serverUrl: address, credentials: { username: user, password } },
        ...{ authMethod: 'Basic', defaultAccountType, fetch: asks },
      }),
    );
  const clients: Partial<Record<PartnerCollection['kind'], Promise<Client>>> = {};
  const of = (kind: PartnerCollection['kind']): Promise<Client> =>
    (clients[kind] ??= client(kind === 'contacts' ? 'carddav' : 'caldav'));

  const get = async ({ kind, id }: PartnerCollection, objectUrls: string[]) => {
    const answers = await meant(async () => {
      const asked = { url: id, objectUrls, depth: '1' as const };
      const dav = await of(kind);
      return kind === 'contacts'
        ? dav.addressBookMultiGet({ ...asked, props: propsOf('card') })
        : dav.calendarMultiGet({ ...asked, props: propsOf('caldav') });
    });
    return answers.flatMap((answer) => resourceOf(answer, id));
  };

  return {
    async collections() {
      const books = await meant(async () => (await of('contacts')).fetchAddressBooks());
      const calendars = await meant(async () => (await of('events')).fetchCalendars());
      return [
        ...books.map(({ url, displayName }) => ({
          ...{ id: url, name: named(displayName, url), kind: 'contacts' as const },
        })),
        ...syncedKinds
          .filter((kind) => kind !== 'contacts')
          .flatMap((kind) =>
            calendars
              .filter(({ components }) => components?.includes(bookFormats[kind].component) ?? true)
              .map(({ url, displayName }) => ({ id: url, name: named(displayName, url), kind })),
          ),
      ];
    },
    async resources(collection) {
      const { id: url, kind } = collection;
      const asked = { url, depth: '1' as const, props: etag };
      const listed = await meant(async () =>
        kind === 'contacts'
          ? (await of(kind)).propfind(asked)
          : (await of(kind)).calendarQuery({ ...asked, filters: entriesOf(kind) }),
      );
      const ids = listed.flatMap(({ href, props }) =>
        href !== undefined && props?.getetag !== undefined && !href.endsWith('/') ? [href] : [],
      );
      const found: PartnerResource[] = [];
      for (let from = 0; from < ids.length; from += AT_ONCE)
        found.push(...(await get(collection, ids.slice(from, from + AT_ONCE))));
      return found;
    },
    async resource(_, id) {
      const headers = getBasicAuthHeaders({ username: user, password });
      const answer = await meant(() => asks(id, { headers: { ...headers } }));
      if (answer.status === 404 || answer.status === 410) return null;
      const tag = answer.headers.get('etag');
      if (!answer.ok || tag === null) throw new Failure('partner-not-here');
      return { id, tag, contents: new Uint8Array(await answer.arrayBuffer()) };
    },
    async create({ id, kind }, name, contents) {
      const url = new URL(`${name}.${kind === 'contacts' ? 'vcf' : 'ics'}`, id).href;
      const headers = { 'content-type': typeOf(kind), 'if-none-match': '*' };
      await written(async () =>
        (await of(kind)).createObject({ url, data: textOf(contents), headers }),
      );
      return url;
    },
    async replace({ id, tag }, contents) {
      const kind = id.endsWith('.vcf') ? 'contacts' : 'events';
      const headers = { 'content-type': typeOf(kind) };
      await written(async () =>
        (await of(kind)).updateObject({ url: id, data: textOf(contents), etag: tag, headers }),
      );
    },
    async remove({ id, tag }) {
      await written(async () => (await of('contacts')).deleteObject({ url: id, etag: tag }), [404]);
    },
  };
}

const etag = { [`${DAVNamespaceShort.DAV}:getetag`]: {} };
/** Only what is of a kind (RFC 4791, section 9.7.1): a calendar may hold others beside. */
const entriesOf = (kind: PartnerCollection['kind']) => ({
  'comp-filter': {
    _attributes: { name: 'VCALENDAR' },
    'comp-filter': { _attributes: { name: bookFormats[kind].component } },
  },
});
const propsOf = (space: 'card' | 'caldav') => ({
  ...etag,
  [space === 'card' ? 'card:address-data' : 'c:calendar-data']: {},
});

function resourceOf({ href, props }: DAVResponse, base: string): PartnerResource[] {
  const said: unknown = props?.addressData ?? props?.calendarData;
  // Some servers wrap it, and then the text is one further in.
  const text = isWrapped(said) ? said._cdata : said;
  const tag: unknown = props?.getetag;
  if (href === undefined || typeof text !== 'string' || typeof tag !== 'string') return [];
  return [{ id: new URL(href, base).href, tag, contents: new TextEncoder().encode(text) }];
}
const isWrapped = (said: unknown): said is { _cdata: string } =>
  typeof said === 'object' && said !== null && '_cdata' in said;

const typeOf = (kind: PartnerCollection['kind']): string =>
  `${kind === 'contacts' ? mediaTypes.vcard : mediaTypes.icalendar}; charset=utf-8`;
const textOf = (contents: Uint8Array): string => new TextDecoder().decode(contents);
const named = (said: unknown, url: string): string =>
  typeof said === 'string' && said.trim() !== ''
    ? said.trim()
    : decodeURIComponent(new URL(url).pathname.split('/').filter(Boolean).at(-1) ?? url);

/** Asks this one server only, and not for ever: what it sends one on to may be anybody. */
function careful(origin: string, signal: AbortSignal): typeof fetch {
  return async (input, init) => {
    const url = new URL(input instanceof Request ? input.url : input);
    if (url.origin !== origin) throw new Failure('partner-not-here', elsewhere);
    return within(signal, ANSWER_MS, async (limit) => {
      const answer = await fetch(url, { ...init, signal: limit, redirect: 'manual' });
      if (answer.status === 401 || answer.status === 403) throw new Failure('partner-refused');
      const pieces: Uint8Array[] = [];
      let bytes = 0;
      for await (const piece of (answer.body ?? []) as AsyncIterable<Uint8Array>) {
        bytes += piece.length;
        if (bytes > ANSWER_MAX_BYTES) throw new Failure('partner-not-here', tooLong);
        pieces.push(piece);
      }
      const hasBody = ![204, 205, 304].includes(answer.status);
      const { status, statusText, headers } = answer;
      return new Response(hasBody ? Buffer.concat(pieces) : null, { status, statusText, headers });
    });
  };
}
const elsewhere = {
  what: 'The customer’s server sends one on to another, which nobody asked for.',
};
const tooLong = { what: 'The customer’s server sends more than any address book holds.' };

/** What goes wrong on the way is the server's. */
async function meant<T>(ask: () => Promise<T>): Promise<T> {
  try {
    return await ask();
  } catch (error) {
    if (error instanceof Failure) throw error;
    throw new Failure('partner-not-here', {}, { cause: error });
  }
}

async function written(ask: () => Promise<Response>, fine: readonly number[] = []): Promise<void> {
  const { ok, status } = await meant(ask);
  if (ok || fine.includes(status)) return;
  if (status === 412 || status === 409) throw new Failure('changed-meanwhile');
  throw new Failure('partner-not-here', {
    what: 'The customer’s server does not take what is written.',
  });
}
