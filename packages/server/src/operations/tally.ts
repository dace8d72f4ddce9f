import type { FailedItem, NewItem } from '@bright-cellar/archive';
import type { ClassAmount, DataClass, FailedItems } from '@bright-cellar/core';

export const reasonWords: Record<FailedItem['reason'], string> = {
  'read-error': 'the device could not read it',
  changed: 'it changed while it was read',
  gone: 'it was gone when its turn came',
  refused: 'the device did not give it out',
  'not-a-file': 'it is neither file, folder nor link',
  'unfit-name': 'its name or place is one that nothing could be written to',
};

/** Of one reason so many failed items are kept by id: enough to look at, and no second catalogue. */
const IDS_KEPT = 200;

/** Counts what was taken and what failed, by class. */
export class Tally {
  readonly #classes = new Map<DataClass, { items: number; bytes: number }>();
  readonly #failed = new Map<string, FailedItems>();

  taken({ class: dataClass, bytes }: NewItem): void {
    const amount = this.#classes.get(dataClass) ?? { items: 0, bytes: 0 };
    this.#classes.set(dataClass, { items: amount.items + 1, bytes: amount.bytes + bytes });
  }

  /** @param id the device's own, where it has one */
  failed(dataClass: DataClass, reason: string, id?: string): void {
    const key = `${dataClass} ${reason}`;
    const { count = 0, ids = [] } = this.#failed.get(key) ?? {};
    if (id !== undefined && ids.length < IDS_KEPT) ids.push(id);
    this.#failed.set(key, { class: dataClass, reason, count: count + 1, ids });
  }

  /** What was counted before does not count any more. */
  withdrawn(item: { failed: boolean; class: DataClass; bytes: number; reason: string }): void {
    if (!item.failed) {
      const amount = this.#classes.get(item.class);
      if (!amount) return;
      amount.items -= 1;
      amount.bytes -= item.bytes;
      return;
    }
    const key = `${item.class} ${reasonWords[item.reason as FailedItem['reason']]}`;
    const found = this.#failed.get(key);
    if (!found) return;
    if (found.count === 1) this.#failed.delete(key);
    else this.#failed.set(key, { ...found, count: found.count - 1 });
  }

  counts(): { classes: ClassAmount[]; failed: FailedItems[] } {
    return {
      classes: [...this.#classes].map(([dataClass, amount]) => ({ class: dataClass, ...amount })),
      failed: [...this.#failed.values()],
    };
  }
}
