import type { Permission } from '@bright-cellar/core';
import { useId, type ComponentProps } from 'react';
import { Button } from '../design/button.js';
import { useMay, useWhoMay } from './may.js';

/** A button for what not everybody may do: to whom it is not open, it says who may. */
export function MayButton({
  permission,
  ...button
}: ComponentProps<typeof Button> & { permission: Permission }) {
  const id = useId();
  const who = useWhoMay();
  if (useMay()(permission)) return <Button {...button} />;
  return (
    <span className="inline-flex flex-col items-start gap-1">
      <Button {...button} disabled aria-describedby={id} />
      <span id={id} className="text-small text-soft">
        Only {who(permission)} may.
      </span>
    </span>
  );
}
