import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useState, type ReactNode } from 'react';

/** Something that must be answered, or read, before going on. */
export function Overlay({
  open,
  onOpenChange,
  title,
  description,
  children,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  description?: string;
  children: ReactNode;
}) {
  // Where the focus was, so that it is there again afterwards: what opened it knows nothing of this window.
  const [opener] = useState(() => document.activeElement);
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[#100f0d]/50" />
        <Dialog.Content
          {...(description ? {} : { 'aria-describedby': undefined })}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            focusAgain(opener);
          }}
          className="fixed top-[min(6rem,5vh)] left-1/2 z-50 max-h-[90vh] scroll-pb-20 w-[34rem] max-w-[95vw] -translate-x-1/2 overflow-y-auto border border-edge bg-surface p-6 shadow-xl"
        >
          <Dialog.Title className="pr-8 pb-2 text-large">{title}</Dialog.Title>
          {description && <Dialog.Description className="pb-4">{description}</Dialog.Description>}
          {children}
          <Dialog.Close
            aria-label="Close"
            className="absolute top-4 right-4 flex size-8 items-center justify-center rounded-sm hover:bg-ground"
          >
            <X className="size-4" />
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** What was pressed may be gone by now: then the page itself is where one goes on. */
export function focusAgain(opener: Element | null): void {
  const isThere = opener instanceof HTMLElement && opener.isConnected && opener !== document.body;
  (isThere ? opener : document.getElementById('main'))?.focus();
}
