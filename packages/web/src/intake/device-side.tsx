import type { KnownVisits } from '@bright-cellar/contract';
import { formatBytes, osVersionRead, visitReasons, type DeviceFacts } from '@bright-cellar/core';
import { Link } from 'react-router';
import { day } from '../design/dates.js';
import { Facts } from '../design/figures.js';
import { Serial } from '../design/serial.js';

/** What the cable says of the device, and what the shop remembers of it. */
export function DeviceSide({ device, known }: { device: DeviceFacts | null; known: KnownVisits }) {
  return (
    <aside
      aria-label="Device, read from the cable"
      className="flex flex-col gap-4 border border-line bg-surface p-4"
    >
      <section>
        <h2 className="pb-2 text-large">Read from the cable</h2>
        {device ? (
          <Facts
            facts={[
              ['Berth', String(device.berth)],
              ['Device', `${device.familyName} ${device.model}`],
              ['Name', device.name],
              ['Serial', <Serial key="s">{device.serial}</Serial>],
              ['IMEI', device.imei ? <Serial key="i">{device.imei}</Serial> : 'none'],
              ['OS', osVersionRead(`${device.osName} ${device.osVersion}`.trim())],
              ['Capacity', formatBytes(device.capacity)],
              ['Charge', device.charge === null ? 'not read' : `${device.charge} %`],
            ]}
          />
        ) : (
          <p className="text-soft">This device is not on the bench now.</p>
        )}
      </section>
      {device && (
        <section>
          <h2 className="pb-2 text-large">Known from before</h2>
          {known.visits.length === 0 ? (
            <p className="text-soft">It has not been here before.</p>
          ) : (
            <ol className="flex flex-col gap-2">
              {known.visits.map((visit) => (
                <li key={visit.number}>
                  <Link to={`/tickets/${visit.number}`} className="underline">
                    <Serial>{visit.number}</Serial>
                  </Link>{' '}
                  {day(visit.openedAt)}
                  <br />
                  <span className="text-small text-soft">
                    {visit.customerName}, {visitReasons[visit.reason].toLowerCase()}
                  </span>
                </li>
              ))}
            </ol>
          )}
        </section>
      )}
    </aside>
  );
}
