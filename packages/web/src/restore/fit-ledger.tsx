import type { Backup } from '@bright-cellar/contract';
import {
  dataClasses,
  fitOf,
  formatBytes,
  proposedLeavingOut,
  type DataClass,
  type DeviceFacts,
} from '@bright-cellar/core';
import { Button } from '../design/button.js';

/** Whether what is chosen goes onto the device, sum by sum; where it does not, what to leave out at the least cost. */
export function FitLedger({
  backup,
  chosen,
  device,
  onLeaveOut,
}: {
  backup: Pick<Backup, 'classes'>;
  chosen: ReadonlySet<DataClass>;
  device: DeviceFacts;
  /** Null where nothing can be chosen any more. */
  onLeaveOut: ((classes: readonly DataClass[]) => void) | null;
}) {
  const amounts = backup.classes.filter((amount) => chosen.has(amount.class));
  const fit = fitOf(
    device,
    amounts.reduce((sum, { bytes }) => sum + bytes, 0),
  );
  const proposed = fit.over > 0 ? proposedLeavingOut(device, amounts) : null;
  const lines = [
    ['What is chosen', fit.contents],
    ['What the device makes of it', fit.made],
    ['What it works in meanwhile', fit.working],
    ...(fit.later > 0 ? ([['What its OS downloads later', fit.later]] as const) : []),
  ] as const;
  return (
    <section aria-label="Whether it fits" className="pt-5 text-small">
      <h3 className="pb-1 font-semibold">
        {fit.over > 0 ? `${formatBytes(fit.over)} too much` : 'It fits'}
      </h3>
      <table className="w-full border-collapse">
        <tbody>
          {lines.map(([name, bytes]) => (
            <tr key={name}>
              <th className="py-0.5 text-left font-normal">{name}</th>
              <td className="text-right">{formatBytes(bytes)}</td>
            </tr>
          ))}
          <tr className="border-t border-edge">
            <th className="py-0.5 text-left font-semibold">
              Needed, of {formatBytes(fit.free)} free
            </th>
            <td className="text-right font-semibold">{formatBytes(fit.need)}</td>
          </tr>
        </tbody>
      </table>
      {fit.over > 0 && (
        <div className="mt-2 flex flex-col items-start gap-2 border-l-4 border-lamp pl-2">
          {proposed === null ? (
            <p>Nothing of it fits: connect a device with more room.</p>
          ) : (
            <>
              <p>
                It fits without{' '}
                {proposed
                  .map((id) => {
                    const bytes = amounts.find((amount) => amount.class === id)?.bytes ?? 0;
                    return `${dataClasses[id].toLowerCase()} (${formatBytes(bytes)})`;
                  })
                  .join(', ')}
                : what the customer can do without most easily.
              </p>
              {onLeaveOut && <Button onClick={() => onLeaveOut(proposed)}>Leave that out</Button>}
            </>
          )}
        </div>
      )}
    </section>
  );
}
