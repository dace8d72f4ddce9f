import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type RoleRow } from '@bright-cellar/contract';
import {
  alwaysAllowed,
  builtInRole,
  permissionIds,
  permissions,
  type Permission,
} from '@bright-cellar/core';
import { useState } from 'react';
import { useMay } from '../account/may.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { YesNo } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';

/** A role of the shop’s own: what it is called, and single permissions. A new one begins with what who learns may do. */
export function RoleOverlay({ role, onClose }: { role: RoleRow | null; onClose: () => void }) {
  const client = useQueryClient();
  const own = useMay();
  const [name, setName] = useState(role?.name ?? '');
  const [chosen, setChosen] = useState<ReadonlySet<Permission>>(
    new Set(role?.permissions ?? builtInRole('trainee').permissions),
  );
  const onSuccess = async (now: RoleRow[]) => {
    client.setQueryData(queries.roles().queryKey, now);
    await client.invalidateQueries({ queryKey: queries.session().queryKey });
    onClose();
  };
  const body = { name, permissions: permissionIds.filter((one) => chosen.has(one)) };
  const save = useMutation({
    mutationFn: () =>
      role === null
        ? call(routes.addRole, { body })
        : call(routes.changeRole, { params: { id: role.id }, body }),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: () => call(routes.dropRole, { params: { id: role?.id ?? '' } }),
    onSuccess,
  });
  const set = (permission: Permission, may: boolean) => {
    const next = new Set(chosen);
    if (may) next.add(permission);
    else next.delete(permission);
    setChosen(next);
  };
  return (
    <OverlayForm
      permission={routes.addRole.access}
      title={role === null ? 'Make a role' : role.name}
      description="Who has it may do what is chosen here, from their next press on. Everybody sees the bench and looks after their own sign-in."
      action={role === null ? 'Make it' : 'Save'}
      ready={name.trim() !== ''}
      work={save}
      onClose={onClose}
    >
      <TextField
        label="What it is called"
        hint="One word for one person: Archivist, Runner …"
        value={name}
        autoFocus
        maxLength={60}
        onChange={({ target }) => setName(target.value)}
      />
      <fieldset className="flex flex-col gap-1.5">
        <legend className="pb-1 font-semibold">May</legend>
        {permissionIds
          .filter((permission) => !alwaysAllowed.includes(permission) && own(permission))
          .map((permission) => (
            <YesNo
              key={permission}
              label={permissions[permission]}
              checked={chosen.has(permission)}
              onChange={(may) => set(permission, may)}
            />
          ))}
      </fieldset>
      {role !== null && (
        <div className="flex flex-wrap items-center gap-3 border-t border-line pt-3">
          {drop.error && <ProblemNote problem={problemFrom(drop.error)} />}
          <Button disabled={role.people > 0} busy={drop.isPending} onClick={() => drop.mutate()}>
            Take this role away
          </Button>
          {role.people > 0 && (
            <p className="text-soft">Somebody works here as this: give them another first.</p>
          )}
        </div>
      )}
    </OverlayForm>
  );
}
