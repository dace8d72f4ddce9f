import { useMutation, useQuery } from '@tanstack/react-query';
import { formatCount } from '@bright-cellar/core';
import { useId, useState } from 'react';
import { problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page } from '../design/page.js';
import { BytesFrom } from '../look/bytes.js';
import { Desk } from '../look/look-page.js';
import { lookQueries } from '../look/queries.js';
import { fromStick, openStick, STICK_LOOK } from './reading.js';

/** The page that lies on a stick: opened with the password, it is read as at the counter, without a server and a network. */
export function StickPage() {
  const open = useMutation({
    mutationFn: ({ files, password }: { files: readonly File[]; password: string }) =>
      openStick(files, password),
  });
  if (!open.data) {
    return (
      <Opening
        isOpening={open.isPending}
        error={open.error}
        onOpen={(files, password) => open.mutate({ files, password })}
      />
    );
  }
  const { deviceName, missing } = open.data;
  return (
    <BytesFrom value={fromStick}>
      {missing > 0 && (
        <div className="px-6 pt-5">
          <Note>
            {formatCount(missing)} of the files of this stick are missing or cut off: what lies in
            them cannot be read. Copy the stick anew, or ask the shop for another.
          </Note>
        </div>
      )}
      <Read deviceName={deviceName} />
    </BytesFrom>
  );
}

function Read({ deviceName }: { deviceName: string }) {
  const { data, error } = useQuery(lookQueries.amounts(STICK_LOOK));
  if (error) return <ProblemNote problem={problemFrom(error)} />;
  if (!data) return <Loading what="Opening it" />;
  return <Desk id={STICK_LOOK} title={`Inside ${deviceName}`} amounts={data} />;
}

function Opening({
  isOpening,
  error,
  onOpen,
}: {
  isOpening: boolean;
  error: Error | null;
  onOpen: (files: readonly File[], password: string) => void;
}) {
  const [files, setFiles] = useState<readonly File[]>([]);
  const [password, setPassword] = useState('');
  const id = useId();
  const folder = files[0]?.webkitRelativePath.split('/')[0] ?? '';
  return (
    <Page
      title="What was on your device"
      now={
        files.length === 0
          ? 'Choose the folder in which this page lies.'
          : 'Type the password that it was sealed with.'
      }
    >
      <form
        className="flex max-w-xl flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          onOpen(files, password);
        }}
      >
        <p className="text-soft">
          A browser shows a page nothing of a stick until somebody points at the folder. It asks
          whether you want to “upload” it: nothing is sent anywhere, and no network is needed.
        </p>
        <div className="flex flex-col gap-1">
          <label htmlFor={id} className="font-semibold">
            Folder of the stick
          </label>
          <input
            id={id}
            type="file"
            ref={(input) => input?.setAttribute('webkitdirectory', '')}
            className="text-soft file:mr-3 file:h-9 file:rounded-sm file:border file:border-edge file:bg-surface file:px-4 file:font-semibold file:text-ink"
            onChange={({ target }) => setFiles([...(target.files ?? [])])}
          />
          {folder !== '' && (
            <span className="text-small text-soft">
              “{folder}”, {formatCount(files.length)} files
            </span>
          )}
        </div>
        <TextField
          label="Password"
          type="password"
          autoComplete="off"
          value={password}
          onChange={({ target }) => setPassword(target.value)}
        />
        {error && <ProblemNote problem={problemFrom(error)} />}
        <span>
          <Button
            type="submit"
            look="main"
            disabled={files.length === 0 || password === ''}
            busy={isOpening}
          >
            Open it
          </Button>
        </span>
        <p className="text-small text-soft">
          Close this page when you have finished: what it read is forgotten then. What you save is
          no longer sealed.
        </p>
      </form>
    </Page>
  );
}
