import type { Found } from '@bright-cellar/contract';
import { askOf, type Ask } from '@bright-cellar/core';
import { findArchives } from '../archives/index.js';
import { findRacks } from '../racks/index.js';
import type { Shop } from '../shop.js';
import { findTickets } from '../tickets/index.js';

/** A date that cannot be misread: 24 Nov 2026. */
const day = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium' });

const whereIsRack = ({ present, retiredAt }: { present: boolean; retiredAt: string | null }) =>
  retiredAt ? 'out of use' : present ? 'here' : 'away';

type FoundRow = Awaited<ReturnType<typeof findArchives>>['rows'][number];

/** Why an archive was found, where that does not stand in what is shown of it. */
function because({ words }: Ask, readAs: string, row: FoundRow): string {
  if (readAs !== '') return `; read as ${readAs}`;
  const { deviceName, customerName, rackName, ticketNumber, serial } = row;
  const shown = `${deviceName} ${customerName} ${rackName}`.toLowerCase();
  const of = (word: string): string | null => {
    if (shown.includes(word)) return null;
    if (ticketNumber.includes(word)) return `ticket ${ticketNumber}`;
    if (serial.toLowerCase().includes(word)) return `serial ${serial}`;
    return `“${word}” in its model, kind or notes`;
  };
  const reasons = [...new Set(words.flatMap((word) => of(word) ?? []))];
  return reasons.length === 0 ? '' : `; by ${reasons.join(', ')}`;
}

/** What the command bar offers for a few typed letters. */
export async function find(
  { db, bench, clock }: Pick<Shop, 'db' | 'bench' | 'clock'>,
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
  const ask = askOf(text, clock.now());
  const [tickets, { rows: archives, readAs }] = await Promise.all([
    findTickets(db, wanted),
    findArchives(db, ask, 8),
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
      detail: `${archive.customerName}, taken ${day.format(archive.takenAt)}, on ${archive.rackName}${because(ask, readAs, archive)}`,
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
