import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive, type Backup, type Operation } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import { useState } from 'react';
import { call } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { Choice } from '../design/choice.js';
import { Loading } from '../design/loading.js';
import { Overlay } from '../design/overlay.js';
import { OverlayForm } from '../design/overlay-form.js';
import { useKnownPassword } from '../password/known-password.js';
import { PasswordField } from '../password/password-field.js';

interface Props {
  archive: Archive;
  onClose: () => void;
  onStarted: (operation: Operation) => void;
}

const forms = {
  stick: 'A stick that opens itself: a folder with a page for any browser',
  file: 'One sealed file, for the tools age and tar',
};

/** Writes a backup so that the customer can open it without this program. */
export function ExportOverlay({ archive, backup, onClose, onStarted }: Props & { backup: Backup }) {
  const client = useQueryClient();
  const racks = (useQuery(queries.racks()).data ?? []).filter((r) => r.present);
  const [chosen, setChosen] = useState<string | null>(null);
  const [form, setForm] = useState<keyof typeof forms>('stick');
  const password = useKnownPassword(archive.ticketNumber, {
    action: 'package',
    label: 'Password of the archive',
    reminder: archive.reminder,
  });
  const rackId = chosen ?? racks[0]?.id ?? '';
  const start = useMutation({
    mutationFn: () =>
      call(routes.startExport, {
        params: { id: backup.id },
        body: { rackId, form, ...password.body },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      onStarted(operation);
    },
  });
  return (
    <OverlayForm
      permission={routes.startExport.access}
      title="Write a package to take along"
      description={`Everything of ${dateTime(backup.takenAt)}, ${formatBytes(backup.bytes)}, sealed with the archive’s password. Anybody who has that can open it, without this program and without a network.`}
      action="Write the package"
      ready={password.ready}
      work={start}
      onClose={onClose}
    >
      <Choice label="As what" value={form} options={forms} onChange={setForm} />
      <Choice
        label="Onto which rack"
        hint="It is written into the rack’s packages folder."
        value={rackId}
        options={Object.fromEntries(
          racks.map((r) => [r.id, `${r.name}, ${formatBytes(r.free)} free`]),
        )}
        onChange={setChosen}
      />
      {password.field}
    </OverlayForm>
  );
}

/** Takes the backup of a package that lies on a rack into this archive. */
export function ImportOverlay({ archive, onClose, onStarted }: Props) {
  const client = useQueryClient();
  const packages = useQuery(queries.packages());
  const [chosen, setChosen] = useState<string | null>(null);
  const [password, setPassword] = useState('');
  const [packagePassword, setPackagePassword] = useState('');
  const all = packages.data ?? [];
  const keyOf = (p: (typeof all)[number]) => `${p.rackId}/${p.name}`;
  const found = all.find((p) => keyOf(p) === chosen) ?? all[0];
  const start = useMutation({
    mutationFn: () =>
      call(routes.startImport, {
        params: { id: archive.id },
        body: {
          rackId: found?.rackId ?? '',
          name: found?.name ?? '',
          password,
          packagePassword,
        },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      onStarted(operation);
    },
  });
  const about = {
    title: 'Take a package in',
    description:
      'Its backup goes into this archive. It is accepted only when every file agrees with the package’s checksums.',
  };
  if (!found) {
    return (
      <Overlay open onOpenChange={(open) => !open && onClose()} {...about}>
        {packages.isPending ? (
          <Loading what="Looking on the racks" />
        ) : (
          <p>
            No rack holds a package. Copy it (a file ending in .tar.age) into the folder “packages”
            on a rack, then open this again.
          </p>
        )}
      </Overlay>
    );
  }
  return (
    <OverlayForm
      permission={routes.startImport.access}
      {...about}
      action="Take it in"
      ready={password !== ''}
      work={start}
      onClose={onClose}
    >
      <Choice
        label="Which package"
        hint={`${found.rackName}, ${formatBytes(found.bytes)}, ${dateTime(found.modified)}`}
        value={keyOf(found)}
        options={Object.fromEntries(all.map((p) => [keyOf(p), p.name]))}
        onChange={setChosen}
      />
      <PasswordField
        label="Password of the package"
        hint="Leave it empty when it is the archive’s."
        value={packagePassword}
        onChange={setPackagePassword}
      />
      <PasswordField reminder={archive.reminder} value={password} onChange={setPassword} />
    </OverlayForm>
  );
}
