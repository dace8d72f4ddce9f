import { useMutation } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { mountedFolderSchema, type MountedFolder } from '@bright-cellar/core';
import { useState } from 'react';
import { call } from '../api/call.js';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { OverlayForm } from '../design/overlay-form.js';
import { FolderChoice } from './folder-choice.js';

const kinds = { phone: 'Phone', tablet: 'Tablet', handset: 'Handset' };
const sources = {
  device: 'The storage of a device',
  recovered: 'A folder recovered from a device',
};

/** Puts storage that is mounted on this computer on the bench, as the device whose it is. */
export function StorageOverlay({ onClose }: { onClose: () => void }) {
  const [folder, setFolder] = useState('');
  const [of, setOf] = useState<MountedFolder['of']>('device');
  const [kind, setKind] = useState<MountedFolder['kind']>('phone');
  const [name, setName] = useState('');
  const [model, setModel] = useState('');
  const [serial, setSerial] = useState('');
  const typedSerial = serial.trim().toUpperCase();
  const isSerial = mountedFolderSchema.shape.serial.safeParse(typedSerial || null).success;
  const usual = folder.slice(folder.lastIndexOf('/') + 1);
  const connect = useMutation({
    mutationFn: () =>
      call(routes.connectStorage, {
        body: {
          ...{ folder, of, kind },
          name: name.trim() || usual,
          model: model.trim(),
          serial: typedSerial || null,
        },
      }),
    onSuccess: onClose,
  });
  return (
    <OverlayForm
      permission={routes.connectStorage.access}
      title="Connect mounted storage"
      description="A device whose storage this computer shows as a folder, or what somebody recovered from one, takes a berth like any device. Only files come from it: contacts, messages and settings stay on the device."
      action="Put it on the bench"
      ready={folder !== '' && model.trim() !== '' && isSerial}
      work={connect}
      onClose={onClose}
    >
      <FolderChoice path={folder} onChange={setFolder} />
      <div className="grid grid-cols-2 gap-x-4 gap-y-3">
        <Choice label="What it is" value={of} options={sources} onChange={setOf} />
        <Choice label="Device" value={kind} options={kinds} onChange={setKind} />
        <TextField
          label="Model"
          value={model}
          maxLength={60}
          hint="As it stands on the device."
          onChange={({ target }) => setModel(target.value)}
        />
        <TextField
          label="Name"
          value={name}
          maxLength={120}
          placeholder={usual}
          onChange={({ target }) => setName(target.value)}
        />
        <TextField
          label="Serial"
          mono
          value={serial}
          maxLength={64}
          className="col-span-2"
          error={isSerial ? undefined : 'Four letters and digits or more, without spaces.'}
          hint="Read it off the device: by it the shop knows it again. Empty where nobody can read it; nothing is restored onto it then."
          onChange={({ target }) => setSerial(target.value)}
        />
      </div>
    </OverlayForm>
  );
}
