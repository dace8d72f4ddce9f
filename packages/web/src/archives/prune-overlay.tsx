import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive, type Operation } from '@bright-cellar/contract';
import { backupIdSchema, countOf, formatBytes, mayGo } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { Button } from '../design/button.js';
import { YesNo } from '../design/choice.js';
import { dateTime } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { useNow } from '../design/use-now.js';
import { PasswordField } from '../password/password-field.js';

const numberOf = (text: string) => (/^\d{1,4}$/.test(text.trim()) ? Number(text) : 0);

/** Takes old backups out of an archive: a rule proposes which, a person decides, what stays is proven after. */
export function PruneOverlay({
  archive,
  onClose,
  onStarted,
}: {
  archive: Archive;
  onClose: () => void;
  onStarted: (operation: Operation) => void;
}) {
  const client = useQueryClient();
  const now = useNow();
  const [newest, setNewest] = useState('3');
  const [days, setDays] = useState('0');
  const [changed, setChanged] = useState<ReadonlyMap<string, boolean>>(new Map());
  const [password, setPassword] = useState('');
  const backups = archive.backups.map((backup) => ({
    ...backup,
    isProven: backup.proofs.some(
      ({ level, outcome, current }) => level === 'full' && outcome === 'whole' && current,
    ),
  }));
  const ruled = new Set(
    mayGo(
      backups.map(({ id, takenAt, isProven }) => ({ id, isProven, takenAt: new Date(takenAt) })),
      { newest: numberOf(newest), days: numberOf(days) },
      now,
    ),
  );
  const goes = (id: string) => changed.get(id) ?? ruled.has(id);
  const keep = backups.filter(({ id }) => !goes(id)).map(({ id }) => backupIdSchema.parse(id));
  const count = backups.length - keep.length;
  const asked = { params: { id: archive.id }, body: { keep, password } };
  const weigh = useMutation({ mutationFn: () => call(routes.weighPruning, asked) });
  const prune = useMutation({
    mutationFn: () => call(routes.startPrune, asked),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      onStarted(operation);
    },
  });
  const losesProof =
    backups.some(({ isProven }) => isProven) && !backups.some((b) => b.isProven && !goes(b.id));
  const isReady = count > 0 && keep.length > 0 && password !== '';
  const typed = (set: (value: string) => void) => (value: string) => {
    set(value);
    setChanged(new Map());
    weigh.reset();
  };
  return (
    <OverlayForm
      permission={routes.startPrune.access}
      title="Take old backups out"
      description="Their room is given back; what the others share with them stays. The archive is whole at every moment, and is proven after."
      action={count > 0 ? `Take ${countOf(count, 'backup')} out` : 'Take them out'}
      ready={isReady}
      work={prune}
      onClose={onClose}
    >
      <div className="grid grid-cols-2 gap-4">
        <TextField
          label="The newest stay"
          inputMode="numeric"
          value={newest}
          onChange={({ target }) => typed(setNewest)(target.value)}
        />
        <TextField
          label="And what is no older than, days"
          inputMode="numeric"
          value={days}
          onChange={({ target }) => typed(setDays)(target.value)}
        />
      </div>
      <fieldset className="flex flex-col gap-1">
        <legend className="pb-1 font-semibold">What goes</legend>
        {backups.map(({ id, takenAt, storedBytes, isProven }) => (
          <YesNo
            key={id}
            label={`${dateTime(takenAt)}, ${formatBytes(storedBytes)} stored for it${isProven ? ', proven' : ''}`}
            checked={goes(id)}
            onChange={(going) => {
              setChanged(new Map(changed).set(id, going));
              weigh.reset();
            }}
          />
        ))}
      </fieldset>
      {keep.length === 0 && (
        <Note>One backup stays at least. To let go of all, destroy the archive.</Note>
      )}
      {losesProof && keep.length > 0 && (
        <Note>The last proven backup is among those that go. What stays is proven after.</Note>
      )}
      <PasswordField
        label="Password"
        reminder={archive.reminder}
        value={password}
        onChange={setPassword}
      />
      <div className="flex items-center gap-3">
        <Button disabled={!isReady} busy={weigh.isPending} onClick={() => weigh.mutate()}>
          See what that frees
        </Button>
        {weigh.data && (
          <p>
            About <span className="font-semibold">{formatBytes(weigh.data.freedBytes)}</span>
          </p>
        )}
      </div>
      {weigh.error && <ProblemNote problem={problemFrom(weigh.error)} />}
    </OverlayForm>
  );
}
