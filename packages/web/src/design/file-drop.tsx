import clsx from 'clsx';
import { Upload } from 'lucide-react';
import { useDropzone, type Accept } from 'react-dropzone';
import { Button } from './button.js';

/** A place to which files are dragged, or in which they are picked. */
export function FileDrop({
  label,
  hint,
  accept,
  many = false,
  folder = false,
  maxBytes,
  disabled = false,
  onFiles,
  onRefused,
}: {
  label: string;
  hint: string;
  /** Media types, each with its endings; any where not said. */
  accept?: Accept;
  many?: boolean;
  /** What is picked is a folder, with all that lies below it. */
  folder?: boolean;
  maxBytes: number;
  disabled?: boolean;
  onFiles: (files: File[]) => void;
  /** Says why nothing was taken. */
  onRefused: (why: string) => void;
}) {
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    ...{ multiple: many || folder, maxSize: maxBytes, disabled, noClick: true, noKeyboard: true },
    ...(accept ? { accept } : {}),
    onDropAccepted: onFiles,
    onDropRejected: ([first]) => {
      const isLong = first?.errors.some(({ code }) => code === 'file-too-large');
      onRefused(isLong ? 'That file is too long.' : 'That is no file of the kind.');
    },
  });
  return (
    <div
      {...getRootProps({ role: 'group', 'aria-label': label })}
      className={clsx(
        'flex flex-col items-center gap-2 border-2 border-dashed px-6 py-8 text-center',
        isDragActive ? 'border-ink bg-lamplight' : 'border-edge bg-surface',
      )}
    >
      <input
        {...getInputProps({ 'aria-hidden': true })}
        {...(folder ? { webkitdirectory: '' } : {})}
      />
      <Upload aria-hidden className="size-6" />
      <Button disabled={disabled} onClick={open}>
        {label}
      </Button>
      <span className="text-small text-soft">{hint}</span>
    </div>
  );
}
