import { Overlay } from '../design/overlay.js';
import { shortcuts } from './use-shortcuts.js';

export function ShortcutList({
  open,
  onOpenChange,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}) {
  return (
    <Overlay open={open} onOpenChange={onOpenChange} title="Keys">
      <dl className="grid grid-cols-[auto_1fr] gap-x-6 gap-y-2">
        {shortcuts.map(([keys, what]) => (
          <div key={keys} className="contents">
            <dt className="font-mono">{keys}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Overlay>
  );
}
