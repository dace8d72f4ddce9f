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
  maxBytes,
  disabled = false,
  onFiles,
  onRefused,
}: {
  label: string;
  hint: string;
  /** Media types, each with its endings. */
  accept: Accept;
  many?: boolean;
  maxBytes: number;
  disabled?: boolean;
  onFiles: (files: File[]) => void;
  /** Says why nothing was taken. */
  onRefused: (why: string) => void;
}) {
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    ...{ accept, multiple: many, maxSize: maxBytes, disabled, noClick: true, noKeyboard: true },
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
      <input {...getInputProps({ 'aria-hidden': true })} />
      <Upload aria-hidden className="size-6" />
      <Button disabled={disabled} onClick={open}>
        {label}
      </Button>
      <span className="text-small text-soft">{hint}</span>
    </div>
  );
}
