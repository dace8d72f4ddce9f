import { useMutation } from '@tanstack/react-query';
import {
  messagePicturePath,
  PICTURE_BYTES_MAX,
  PICTURE_PLACE,
  pictureTakenSchema,
  routes,
  type FileTold,
} from '@bright-cellar/contract';
import { countOf } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom, sendFile } from '../api/call.js';
import { FileDrop } from '../design/file-drop.js';
import { Note, ProblemNote } from '../design/note.js';

/** Pictures that lie beside a file of messages: chosen with their folder, sent one after the other, each to the line that it came with. */
export function FilePictures({
  ticket,
  told,
  onTold,
}: {
  ticket: string;
  told: FileTold;
  onTold: (told: FileTold) => void;
}) {
  const [sent, setSent] = useState<{ count: number; of: number; taken: number } | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const { id, mapping } = told;
  const give = useMutation({
    mutationFn: async (files: readonly File[]) => {
      setRefused(null);
      let taken = 0;
      for (const [n, file] of files.entries()) {
        setSent({ count: n, of: files.length, taken });
        const { isWanted } = await sendFile(
          messagePicturePath(ticket, id),
          file,
          file.type || 'application/octet-stream',
          pictureTakenSchema,
          { [PICTURE_PLACE]: encodeURI(placeOf(file)) },
        );
        if (isWanted) taken += 1;
      }
      setSent({ count: files.length, of: files.length, taken });
      return call(routes.mapMessageFile, {
        params: { number: ticket, id },
        body: { mapping, numbers: {} },
      });
    },
    onSuccess: onTold,
  });
  return (
    <div className="flex flex-col gap-2">
      <FileDrop
        folder
        label="Choose the folder of its pictures"
        hint="The one that lies beside the file. Or drag it here."
        maxBytes={PICTURE_BYTES_MAX}
        onFiles={(files) => give.isPending || give.mutate(files)}
        onRefused={setRefused}
      />
      {sent && (
        <p role="status" className="text-small">
          {give.isPending
            ? `Reading ${(sent.count + 1).toLocaleString('en')} of ${sent.of.toLocaleString('en')}.`
            : saidOf(sent)}
        </p>
      )}
      {refused !== null && <Note>{refused} What can be read of the folder is taken.</Note>}
      {give.error && <ProblemNote problem={problemFrom(give.error)} />}
    </div>
  );
}

const saidOf = ({ of, taken }: { of: number; taken: number }): string =>
  of === taken
    ? `${countOf(of, 'file')} read: each belongs to a line of it.`
    : `${countOf(of, 'file')} read: ${taken === 1 ? '1 belongs to a line' : `${taken.toLocaleString('en')} belong to lines`} of it.`;

/** Its last folder and its name, as far as the browser says where it lay. */
function placeOf(file: File & { path?: string }): string {
  const path = [file.webkitRelativePath, file.path].find(Boolean) ?? file.name;
  return path.split('/').slice(-2).join('/').replace(/^\.\//, '');
}
