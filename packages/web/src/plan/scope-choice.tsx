import { isPartOnly, type DeviceFacts, type PlanMode } from '@bright-cellar/core';
import clsx from 'clsx';
import { RadioGroup } from 'radix-ui';
import type { Scope } from './planned-scope.js';

const modes: Record<PlanMode, { name: string; means: string }> = {
  everything: { name: 'Everything', means: 'safe before an erase' },
  quick: { name: 'Quick set', means: 'what no download brings back' },
  chosen: { name: 'Chosen', means: 'classes, groups, items' },
};

/** How much is taken. */
export function ScopeChoice({
  device,
  scope,
  onChange,
}: {
  device: DeviceFacts;
  scope: Scope;
  onChange: (change: Partial<Scope>) => void;
}) {
  return (
    <RadioGroup.Root
      aria-label="How much is taken"
      value={scope.mode}
      onValueChange={(mode) => onChange({ mode: mode as PlanMode })}
      className="flex"
    >
      {(Object.keys(modes) as PlanMode[]).map((mode) => (
        <RadioGroup.Item
          key={mode}
          value={mode}
          className={clsx(
            '-ml-px flex flex-col border px-3 py-1 text-left first:ml-0',
            scope.mode === mode ? 'z-10 border-2 border-ink' : 'border-edge',
          )}
        >
          <span className="font-semibold">{modes[mode].name}</span>
          <span className="text-small text-soft">
            {mode === 'everything' && isPartOnly(device)
              ? 'that lies on this storage'
              : modes[mode].means}
          </span>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
