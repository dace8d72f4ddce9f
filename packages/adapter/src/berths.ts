import { EventEmitter } from 'node:events';
import { LinkError, type SentEvent } from '@bright-cellar/device-link';
import type { DeviceNews, LinkDevice } from './link-device.js';

/** The places of a bench, what is on each, and who is told when that changes. */
export class Berths {
  /** All devices that were ever here, by id. */
  readonly devices = new Map<string, LinkDevice>();
  #cables: number;
  readonly #events = new EventEmitter().setMaxListeners(0);

  /**
   * @param cables how many there are
   * @param network how many devices can be on the shop network at once
   */
  constructor(
    cables: number,
    readonly network: number,
  ) {
    this.#cables = cables;
  }

  get cables(): number {
    return this.#cables;
  }

  /**
   * As many as are wanted, where they are no cables but places for storage: then nothing is on the network. None that is
   * taken goes.
   * @returns whether that changed anything
   */
  arrange(wanted: number): boolean {
    const last = Math.max(0, ...this.present().map(({ berth }) => berth ?? 0));
    const cables = Math.max(wanted, last);
    if (this.network > 0 || cables === this.#cables) return false;
    this.#cables = cables;
    return true;
  }

  present(): LinkDevice[] {
    return [...this.devices.values()].filter(({ berth }) => berth !== null);
  }

  /** @throws LinkError `no-such-device` where it is not on the bench */
  here(id: string): LinkDevice {
    const device = this.present().find((one) => one.id === id);
    if (!device) throw new LinkError('no-such-device');
    return device;
  }

  /** The first free cable, or the first free place on the shop network; null where none is. */
  free(connection: 'cable' | 'network' = 'cable'): number | null {
    const taken = new Set(this.present().map(({ berth }) => berth));
    const [first, last] =
      connection === 'cable' ? [1, this.cables] : [this.cables + 1, this.cables + this.network];
    for (let berth = first; berth <= last; berth++) if (!taken.has(berth)) return berth;
    return null;
  }

  tell(device: LinkDevice, what: DeviceNews): void {
    const { id } = device;
    if (what === 'left') {
      this.#events.emit('event', { type: 'left', id } satisfies SentEvent);
      this.#events.emit(`left ${id}`);
    } else if (device.berth !== null) {
      this.#events.emit('event', { type: what, device: device.facts() } satisfies SentEvent);
    }
  }

  tellAll(event: SentEvent): void {
    this.#events.emit('event', event);
  }

  listen(listener: (event: SentEvent) => void): () => void {
    this.#events.on('event', listener);
    return () => this.#events.off('event', listener);
  }

  /** Told at the moment when a device leaves: whatever still runs over its cable ends at once. */
  onLeft(id: string, listener: () => void): () => void {
    this.#events.on(`left ${id}`, listener);
    return () => this.#events.off(`left ${id}`, listener);
  }
}
