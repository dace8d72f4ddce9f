import {
  dataClasses,
  fitOf,
  formatBytes,
  nothingSparable,
  proposedLeavingOut,
  savedBy,
  type ClassAmount,
  type DataClass,
  type DeviceFacts,
  type LeaveOut,
  type LeavingOutProposal,
  type Sparable,
} from '@bright-cellar/core';
import { Button } from '../design/button.js';

/** Whether what is chosen goes onto the device, sum by sum; where it does not, what to leave out at the least cost. */
export function FitLedger({
  amounts,
  without,
  sparable,
  device,
  onLeaveOut,
}: {
  /** Of what is chosen, without what is left out by rule. */
  amounts: readonly ClassAmount[];
  without: LeaveOut;
  /** What rules would leave out of it; null while nobody knows. */
  sparable: Sparable | null;
  device: DeviceFacts;
  /** Null where nothing can be chosen any more. */
  onLeaveOut: ((proposal: LeavingOutProposal) => void) | null;
}) {
  const rules = sparable ?? nothingSparable;
  const chosen = amounts.reduce((sum, { bytes }) => sum + bytes, 0);
  const goes = new Set(amounts.map((amount) => amount.class));
  const { doubles, videos } = savedBy(without, rules, (id) => goes.has(id));
  const fit = fitOf(device, chosen - doubles - videos);
  const proposed = fit.over > 0 ? proposedLeavingOut(device, amounts, rules) : null;
  const lines = [
    ['What is chosen', chosen],
    ...(doubles > 0 ? ([['Left out: what is there twice', -doubles]] as const) : []),
    ...(videos > 0 ? ([['Left out: long videos', -videos]] as const) : []),
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
              <td className="text-right">
                {bytes < 0 ? `−${formatBytes(-bytes)}` : formatBytes(bytes)}
              </td>
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
                It fits without {wordsOf(proposed, amounts)}: what the customer can do without most
                easily.
              </p>
              {sparable === null && (
                <p className="text-soft">
                  How much of it is there twice, or is long videos, is known once the backup was
                  opened to see what would arrive.
                </p>
              )}
              {onLeaveOut && <Button onClick={() => onLeaveOut(proposed)}>Leave that out</Button>}
            </>
          )}
        </div>
      )}
    </section>
  );
}

function wordsOf(
  { classes, without, doubles, videos }: LeavingOutProposal,
  amounts: readonly ClassAmount[],
): string {
  const bytesOf = (id: DataClass) => amounts.find((amount) => amount.class === id)?.bytes ?? 0;
  const out = [
    ...(doubles > 0 ? [`what is there twice (${formatBytes(doubles)})`] : []),
    ...(videos > 0
      ? [`videos of ${formatBytes(without.videosFrom ?? 0)} and more (${formatBytes(videos)})`]
      : []),
    ...classes.map((id) => `${dataClasses[id].toLowerCase()} (${formatBytes(bytesOf(id))})`),
  ];
  return out.join(', ');
}
