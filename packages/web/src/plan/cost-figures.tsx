import type { PlanCost } from '@bright-cellar/contract';
import {
  countOf,
  formatBytes,
  formatBytesRange,
  formatDurationRange,
  formatRate,
} from '@bright-cellar/core';
import type { UseQueryResult } from '@tanstack/react-query';
import { problemFrom } from '../api/call.js';
import { Figure } from '../design/figures.js';
import { ProblemNote } from '../design/note.js';

/** How large and how long, as ranges that say where they come from. */
export function CostFigures({ cost }: { cost: UseQueryResult<PlanCost> }) {
  if (cost.error) return <ProblemNote problem={problemFrom(cost.error)} />;
  if (!cost.data)
    return (
      <p role="status" className="text-soft">
        Reading a sample of the device to measure its size and its link …
      </p>
    );
  const { estimate, linkRate, pastRuns } = cost.data;
  return (
    <div aria-label="What it costs" role="group" className="flex flex-wrap gap-x-8 gap-y-2">
      <Figure value={formatBytes(estimate.bytes)} of={`in ${countOf(estimate.items, 'item')}`}>
        On the device
      </Figure>
      <Figure
        value={formatBytesRange(estimate.stored.low, estimate.stored.high)}
        of="four times out of five"
      >
        On the rack
      </Figure>
      <Figure
        value={formatDurationRange(estimate.ms.low, estimate.ms.high)}
        of={pastRuns > 0 ? `from ${countOf(pastRuns, 'run')} before` : 'measured on its link'}
      >
        Time
      </Figure>
      {linkRate !== null && (
        <Figure value={formatRate(linkRate)} of="as measured">
          Link
        </Figure>
      )}
    </div>
  );
}
