import type { ReactNode } from 'react';
import { problemFrom } from '../api/call.js';
import { Button } from './button.js';
import { ProblemNote } from './note.js';
import { Overlay } from './overlay.js';

/** A few questions and the one thing that their answers start. */
export function OverlayForm({
  title,
  description,
  action,
  ready,
  work,
  onClose,
  children,
}: {
  title: string;
  description: string;
  /** What the button says. */
  action: string;
  ready: boolean;
  /** What is started; a mutation of TanStack Query. */
  work: { mutate: () => void; error: Error | null; isPending: boolean };
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Overlay
      open
      onOpenChange={(open) => !open && onClose()}
      title={title}
      description={description}
    >
      <form
        noValidate
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (ready) work.mutate();
        }}
      >
        {children}
        {work.error && <ProblemNote problem={problemFrom(work.error)} />}
        {/* In sight however long the questions are. */}
        <div className="sticky -bottom-6 -mx-6 -mb-6 border-t border-line bg-surface px-6 py-3">
          <Button type="submit" look="main" disabled={!ready} busy={work.isPending}>
            {action}
          </Button>
        </div>
      </form>
    </Overlay>
  );
}
