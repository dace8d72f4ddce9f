import {
  QueryClient,
  type InvalidateOptions,
  type InvalidateQueryFilters,
} from '@tanstack/react-query';

/**
 * What was read of the shop. A first answer that is on its way when something changes may be older than that, and the library
 * would take it for the newest: here it is asked for once more.
 */
export class ShopClient extends QueryClient {
  override invalidateQueries<Key extends readonly unknown[] = readonly unknown[]>(
    filters?: InvalidateQueryFilters<Key>,
    options?: InvalidateOptions,
  ): Promise<void> {
    const first = this.getQueryCache()
      .findAll(filters)
      .filter(({ state }) => state.fetchStatus !== 'idle' && state.data === undefined);
    for (const { promise, queryKey } of first) {
      // Whoever waits for the answer hears of it when it fails.
      promise?.then(
        () => super.invalidateQueries({ queryKey, exact: true }),
        () => undefined,
      );
    }
    return super.invalidateQueries(filters, options);
  }
}
