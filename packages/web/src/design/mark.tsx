import type { StepState } from '@bright-cellar/core';
import clsx from 'clsx';
import {
  Ban,
  Check,
  CircleDashed,
  CornerDownRight,
  LoaderCircle,
  OctagonX,
  TriangleAlert,
} from 'lucide-react';
import type { ReactNode } from 'react';

/** A state told by word and mark, never by colour alone. */
export function Mark({
  icon,
  tone,
  children,
}: {
  icon: ReactNode;
  tone: 'plain' | 'proven' | 'danger' | 'soft';
  children: ReactNode;
}) {
  return (
    <span
      className={clsx(
        'inline-flex h-6 items-center gap-1.5 rounded-sm px-1.5 text-small font-semibold whitespace-nowrap [&_svg]:size-3.5',
        tone === 'plain' && 'border border-edge text-ink',
        tone === 'soft' && 'text-soft',
        tone === 'proven' && 'bg-proven-wash text-proven',
        tone === 'danger' && 'bg-danger-wash text-danger',
      )}
    >
      {icon}
      {children}
    </span>
  );
}

export function StepMark({ state }: { state: StepState }) {
  switch (state) {
    case 'done':
      return (
        <Mark icon={<Check />} tone="proven">
          Done
        </Mark>
      );
    case 'running':
      return (
        <Mark icon={<LoaderCircle />} tone="plain">
          Running
        </Mark>
      );
    case 'ready':
      return (
        <Mark icon={<CornerDownRight />} tone="plain">
          Ready
        </Mark>
      );
    case 'blocked':
      return (
        <Mark icon={<Ban />} tone="danger">
          Blocked
        </Mark>
      );
    case 'skipped':
      return (
        <Mark icon={<CircleDashed />} tone="soft">
          Skipped
        </Mark>
      );
    case 'waiting':
      return (
        <Mark icon={<CircleDashed />} tone="soft">
          Waiting
        </Mark>
      );
  }
}

export function ProofMark({ provenAt, damaged }: { provenAt: string | null; damaged: boolean }) {
  if (damaged)
    return (
      <Mark icon={<OctagonX />} tone="danger">
        Damaged
      </Mark>
    );
  return provenAt ? (
    <Mark icon={<Check />} tone="proven">
      Proven
    </Mark>
  ) : (
    <Mark icon={<TriangleAlert />} tone="plain">
      Not proven
    </Mark>
  );
}
