import { createHash } from 'node:crypto';
import type { LinkDeviceId, PartnerSite } from '@bright-cellar/core';
import type { SideName } from '@bright-cellar/core/merge';
import type { Job } from '../../engine/job.js';
import type { FilesPartner, Partner } from '../../partners/index.js';

/** One of the devices of a synchronisation: the one that it is about, or one that it is brought into step with. */
export interface DeviceEnd {
  side: SideName;
  deviceId: LinkDeviceId;
  serial: string;
}

/** Whom a device is kept in step with. */
export type OtherSide =
  /** Reached anew by each piece of work, which ends whatever is asked when it ends. */
  | {
      kind: 'server';
      site: PartnerSite;
      password: string;
      reach: (signal: AbortSignal) => Partner;
    }
  /** Of the customer's, held in memory; or what a backup holds, which is only read. */
  | { kind: 'files' | 'backup'; partner: FilesPartner }
  | { kind: 'device'; end: DeviceEnd; changes: boolean };

/**
 * Tells one from all others, and nothing of it; null where nothing is remembered, since they are not the same ones the next
 * time.
 */
export function markOf(other: OtherSide): string | null {
  if (other.kind !== 'server' && other.kind !== 'device') return null;
  return createHash('sha256').update(wordsOf(other)).digest('hex');
}

function wordsOf(other: Exclude<OtherSide, { kind: 'files' | 'backup' }>): string {
  if (other.kind === 'device') return `device\n${other.end.serial}`;
  const { address, user } = other.site;
  return `${address.replace(/\/+$/, '').toLowerCase()}\n${user}`;
}

/** What is asked there, for as long as some work goes on. */
export const partnerOf = (
  other: Exclude<OtherSide, { kind: 'device' }>,
  signal: AbortSignal,
): Partner => (other.kind === 'server' ? other.reach(signal) : other.partner);

/** Whether anything may be written there. */
export const isWritable = (other: OtherSide): boolean =>
  other.kind === 'device' ? other.changes : other.kind !== 'backup';

/** The device that it is about. */
export const ownEnd = ({
  deviceId,
  input,
}: Pick<Job<'sync'>, 'deviceId' | 'input'>): DeviceEnd => ({
  ...{ side: 'device', deviceId, serial: input.serial },
});
