import { useMutation } from '@tanstack/react-query';
import {
  ORGANISER_FILES_BYTES_MAX,
  organiserFilesPath,
  partnerToldSchema,
  type PartnerTold,
} from '@bright-cellar/contract';
import { Failure, type LinkDeviceId } from '@bright-cellar/core';
import { useState } from 'react';
import { problemFrom, sendFile } from '../api/call.js';
import { FileDrop } from '../design/file-drop.js';
import { Note, ProblemNote } from '../design/note.js';

const FILES = { 'text/vcard': ['.vcf'], 'text/calendar': ['.ics', '.vcs'], 'text/csv': ['.csv'] };
const isTable = ({ name }: File) => name.toLowerCase().endsWith('.csv');

/** Files that the customer brought: of contacts, of a calendar, or both; or a table. */
export function OpenFiles({
  ticket,
  deviceId,
  onOpened,
}: {
  ticket: string;
  deviceId: LinkDeviceId;
  onOpened: (told: PartnerTold) => void;
}) {
  const [refused, setRefused] = useState<string | null>(null);
  const open = useMutation({
    mutationFn: (files: readonly File[]) => {
      // One after the other: each says itself where it begins.
      const all = new Blob(files.flatMap((file) => [file, '\r\n']));
      if (all.size > ORGANISER_FILES_BYTES_MAX) throw new Failure('input-not-valid');
      return sendFile(organiserFilesPath(ticket, deviceId), all, 'text/plain', partnerToldSchema);
    },
    onMutate: () => setRefused(null),
    onSuccess: onOpened,
  });
  return (
    <div className="flex max-w-md flex-col gap-3">
      <FileDrop
        label="Choose files of contacts or a calendar"
        hint="vCard or iCalendar, one or several; or a table (CSV) of contacts, a calendar or tasks. Or drag them here. They are kept in memory only, and changed ones are saved at the end."
        accept={FILES}
        many
        maxBytes={ORGANISER_FILES_BYTES_MAX}
        disabled={open.isPending}
        onFiles={(files) => {
          if (files.length > 1 && files.some(isTable)) setRefused('A table comes by itself.');
          else if (files.length > 0) open.mutate(files);
        }}
        onRefused={setRefused}
      />
      {refused !== null && <Note>{refused} Choose another one.</Note>}
      {open.error && <ProblemNote problem={problemFrom(open.error)} />}
    </div>
  );
}
