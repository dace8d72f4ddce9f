import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type PersonRow } from '@bright-cellar/contract';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { PasswordStrength } from '../password/password-strength.js';

type RoleId = PersonRow['role'];

/** One of the roles that there are. */
function RoleChoice({ value, onChange }: { value: RoleId; onChange: (role: RoleId) => void }) {
  const roles = useQuery(queries.roles()).data ?? [];
  const names = Object.fromEntries(roles.map(({ id, name }) => [id, name])) as Record<
    RoleId,
    string
  >;
  return <Choice label="Works as" value={value} options={names} onChange={onChange} />;
}

/** Shows who is there now, and closes. */
function useNowThere(onClose: () => void): (now: PersonRow[]) => void {
  const client = useQueryClient();
  return (now) => {
    client.setQueryData(queries.people().queryKey, now);
    onClose();
  };
}

export function AddPersonOverlay({ onClose }: { onClose: () => void }) {
  const onSuccess = useNowThere(onClose);
  const [name, setName] = useState('');
  const [login, setLogin] = useState('');
  const [password, setPassword] = useState('');
  const [role, setRole] = useState<RoleId>('technician');
  const add = useMutation({
    mutationFn: () => call(routes.addPerson, { body: { name, login, password, role } }),
    onSuccess,
  });
  return (
    <OverlayForm
      permission={routes.addPerson.access}
      title="Add somebody"
      description="They sign in with the password that you choose here, and change it under their own name, below left."
      action="Add them"
      ready={![name.trim(), login.trim(), password].includes('')}
      work={add}
      onClose={onClose}
    >
      <TextField
        label="Name"
        value={name}
        autoFocus
        maxLength={120}
        onChange={({ target }) => setName(target.value)}
      />
      <TextField
        label="Name to sign in with"
        value={login}
        autoComplete="off"
        maxLength={60}
        error={add.error ? problemFrom(add.error).fields?.login : undefined}
        onChange={({ target }) => setLogin(target.value)}
      />
      <TextField
        label="First password"
        type="password"
        autoComplete="new-password"
        value={password}
        hint={<PasswordStrength password={password} />}
        onChange={({ target }) => setPassword(target.value)}
      />
      <RoleChoice value={role} onChange={setRole} />
    </OverlayForm>
  );
}

export function ChangePersonOverlay({
  person,
  onClose,
}: {
  person: PersonRow;
  onClose: () => void;
}) {
  const onSuccess = useNowThere(onClose);
  const [name, setName] = useState(person.name);
  const [role, setRole] = useState(person.role);
  const [leaving, setLeaving] = useState(false);
  const params = { id: person.id };
  const change = useMutation({
    mutationFn: () => call(routes.changePerson, { params, body: { name, role } }),
    onSuccess,
  });
  const [password, setPassword] = useState<string | null>(null);
  const give = useMutation({
    mutationFn: () => call(routes.givePassword, { params, body: { password: password ?? '' } }),
    onSuccess,
  });
  const signOut = useMutation({
    mutationFn: () => call(routes.signOutPerson, { params }),
    onSuccess,
  });
  const leave = useMutation({
    mutationFn: () => call(routes.personLeaves, { params }),
    onSuccess,
  });
  if (password !== null) {
    return (
      <OverlayForm
        permission={routes.givePassword.access}
        title={`Another password for ${person.name}`}
        description="They are signed out everywhere, sign in with this one, and change it under their own name."
        action="Give them this one"
        ready={password !== ''}
        work={give}
        onClose={onClose}
      >
        <TextField
          label="First password"
          type="password"
          autoComplete="new-password"
          autoFocus
          value={password}
          hint={<PasswordStrength password={password} />}
          onChange={({ target }) => setPassword(target.value)}
        />
      </OverlayForm>
    );
  }
  return (
    <OverlayForm
      permission={routes.changePerson.access}
      title={person.name}
      description="What they did stays on record under their name, whatever becomes of them here."
      action="Save"
      ready={name.trim() !== ''}
      work={change}
      onClose={onClose}
    >
      <TextField
        label="Name"
        value={name}
        maxLength={120}
        onChange={({ target }) => setName(target.value)}
      />
      <RoleChoice value={role} onChange={setRole} />
      {leave.error && <ProblemNote problem={problemFrom(leave.error)} />}
      <div className="flex flex-wrap items-center gap-3 border-t border-line pt-3">
        {leaving ? (
          <>
            <p className="flex-1">
              {person.name} is signed out everywhere at once, and cannot sign in again.
            </p>
            <Button look="danger" busy={leave.isPending} onClick={() => leave.mutate()}>
              They leave
            </Button>
          </>
        ) : (
          <>
            <Button onClick={() => setPassword('')}>They forgot their password …</Button>
            <Button busy={signOut.isPending} onClick={() => signOut.mutate()}>
              Sign them out everywhere
            </Button>
            <Button onClick={() => setLeaving(true)}>They work here no longer …</Button>
          </>
        )}
      </div>
    </OverlayForm>
  );
}
