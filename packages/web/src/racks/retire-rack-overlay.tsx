import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Rack } from '@bright-cellar/contract';
import { countOf } from '@bright-cellar/core';
import { useState } from 'react';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { TextField } from '../design/field.js';
import { Note } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';

/** Puts a rack out of use: at once where nothing lies there, else with its name typed. */
export function RetireRackOverlay({
  rack,
  onClose,
  onDone,
}: {
  rack: Rack;
  onClose: () => void;
  onDone: () => void;
}) {
  const client = useQueryClient();
  const [typedName, setTypedName] = useState('');
  const isEmpty = rack.archives === 0;
  const retire = useMutation({
    mutationFn: () => call(routes.retireRack, { params: { id: rack.id }, body: { typedName } }),
    onSuccess: async () => {
      onDone();
      await client.invalidateQueries({ queryKey: queries.racks().queryKey });
    },
  });
  return (
    <OverlayForm
      permission={routes.retireRack.access}
      title={`Put ${rack.name} out of use`}
      description="Nothing is put there and nobody looks for it any more. Nothing is deleted: add it again, and it is back with what lies on it."
      action="Put it out of use"
      ready={isEmpty || typedName.trim() === rack.name}
      work={retire}
      onClose={onClose}
    >
      {isEmpty ? (
        <Note>No archive lies on it.</Note>
      ) : (
        <>
          <Note>
            {countOf(rack.archives, 'archive')} {rack.archives === 1 ? 'lies' : 'lie'} on it, and{' '}
            {rack.archives === 1 ? 'counts' : 'count'} as no copy any more. Copy them onto another
            rack first, unless you know that you need them no more.
          </Note>
          <TextField
            label={`Type its name: ${rack.name}`}
            value={typedName}
            autoComplete="off"
            onChange={(event) => setTypedName(event.target.value)}
          />
        </>
      )}
    </OverlayForm>
  );
}
