import { Choice } from '../design/choice.js';
import { DeskCode } from './desk-code.js';
import { MadePassword } from './made-password.js';
import { HolderFields, passwordSources, TypedTwice, type PasswordFields } from './new-password.js';

/** Where a new archive's password comes from, and the password itself: typed, by the customer on their own page, or made. */
export function PasswordChoice({
  ticket,
  device,
  value,
  set,
}: PasswordFields & {
  /** Its number. */
  ticket: string;
  /** For the slip. */
  device: string;
}) {
  return (
    <>
      <Choice
        label="The password is"
        value={value.source}
        options={passwordSources}
        onChange={(source) => set({ source, password: '', again: '' })}
      />
      {value.source === 'typed' && (
        <div className="grid grid-cols-2 gap-x-4 gap-y-1">
          <TypedTwice label="Password of the backup" value={value} set={set} />
        </div>
      )}
      {value.source === 'made' && (
        <MadePassword
          password={value.password}
          ticket={ticket}
          device={device}
          onMade={(password) => set({ password, again: password })}
        />
      )}
      {value.source === 'desk' ? (
        <DeskCode number={ticket} action="backup" />
      ) : (
        <div className="grid grid-cols-2 gap-x-4 gap-y-1">
          <HolderFields value={value} set={set} />
        </div>
      )}
    </>
  );
}
