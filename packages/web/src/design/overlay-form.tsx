import type { Permission } from '@bright-cellar/core';
import type { ReactNode } from 'react';
import { problemFrom } from '../api/call.js';
import { MayButton } from '../account/may-button.js';
import { ProblemNote } from './note.js';
import { Overlay } from './overlay.js';

/** A few questions and the one thing that their answers start. */
export function OverlayForm({
  title,
  description,
  action,
  permission,
  ready,
  work,
  onClose,
  children,
}: {
  title: string;
  description: string;
  /** What the button says. */
  action: string;
  /** What that asks for, as the route says: whoever may not is told who may. */
  permission: Permission;
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
          <MayButton
            permission={permission}
            type="submit"
            look="main"
            disabled={!ready}
            busy={work.isPending}
          >
            {action}
          </MayButton>
        </div>
      </form>
    </Overlay>
  );
}
