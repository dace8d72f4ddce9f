import type { NewItem } from '@bright-cellar/archive';
import { dataClassIds, type LinkDeviceId } from '@bright-cellar/core';
import type { DeviceLink, Entry } from '@bright-cellar/device-link';

/** Everything a device lists, class by class, each entry as the archive knows it. */
export async function* deviceItems(
  link: DeviceLink,
  device: LinkDeviceId,
  signal?: AbortSignal,
  onTrouble?: (error: unknown) => Promise<void>,
): AsyncGenerator<{ entry: Entry; item: NewItem }> {
  for (const dataClass of dataClassIds) {
    for await (const entry of link.entries(device, dataClass, signal, onTrouble)) {
      signal?.throwIfAborted();
      yield { entry, item: itemOf(entry) };
    }
  }
}

/** The device's own revision is the mark: as long as it is the same, the bytes are. */
export function itemOf(entry: Entry): NewItem {
  const { class: dataClass, kind, path, bytes, modified, mode, revision, format } = entry;
  const known = { class: dataClass, kind, path, bytes, modified, mode, mark: revision };
  return format === null ? known : { ...known, format };
}
