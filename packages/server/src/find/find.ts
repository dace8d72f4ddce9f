import type { Found } from '@bright-cellar/contract';
import { findArchives } from '../archives/index.js';
import { findRacks } from '../racks/index.js';
import type { Shop } from '../shop.js';
import { findTickets } from '../tickets/index.js';

/** A date that cannot be misread: 24 Nov 2026. */
const day = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium' });

const whereIsRack = ({ present, retiredAt }: { present: boolean; retiredAt: string | null }) =>
  retiredAt ? 'out of use' : present ? 'here' : 'away';

/** What the command bar offers for a few typed letters. */
export async function find(
  { db, bench }: Pick<Shop, 'db' | 'bench'>,
  text: string,
): Promise<Found[]> {
  const wanted = text.trim().toLowerCase();
  if (wanted === '') return [];
  const found: Found[] = (await findRacks(db, wanted)).map((rack) => ({
    kind: 'rack',
    path: `/racks/${rack.id}`,
    title: `Rack ${rack.name}`,
    detail: `${rack.code}${rack.note === '' ? '' : `, ${rack.note}`}, ${whereIsRack(rack)}`,
  }));
  const [tickets, archives] = await Promise.all([
    findTickets(db, wanted),
    findArchives(db, wanted, 8),
  ]);
  for (const { ticket, customer, device } of tickets) {
    found.push({
      kind: 'ticket',
      path: `/tickets/${ticket.number}`,
      title: `Ticket ${ticket.number}`,
      detail: `${customer.name}, ${device.familyName} ${device.model}`,
    });
  }
  for (const archive of archives) {
    found.push({
      kind: 'archive',
      path: `/archives/${archive.archiveId}`,
      title: `Archive of ${archive.deviceName}`,
      detail: `${archive.customerName}, taken ${day.format(archive.takenAt)}, on ${archive.rackName}`,
    });
  }
  for (const device of bench.present()) {
    if (!`${device.name} ${device.model} ${device.serial}`.toLowerCase().includes(wanted)) continue;
    found.push({
      kind: 'device',
      path: `/?berth=${device.berth}`,
      title: device.name,
      detail: `Berth ${device.berth}, ${device.familyName} ${device.model} ${device.serial}`,
    });
  }
  return found;
}
