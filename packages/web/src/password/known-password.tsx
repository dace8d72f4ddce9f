import { useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { deskServes, type DeskAction } from '@bright-cellar/contract';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { Note } from '../design/note.js';
import { DeskCode } from './desk-code.js';
import { PasswordField } from './password-field.js';

interface KnownPassword {
  /** What a route asks for. */
  body: { fromDesk: boolean; password: string };
  ready: boolean;
  /** Forgets what was typed. */
  clear: () => void;
  field: ReactNode;
}

/**
 * The password of an archive that is there: typed here, typed by the customer on a page of their own, or still held from
 * when they did.
 * @param ticket one of the device's, by its number: only what that device's owner typed is used
 */
export function useKnownPassword(
  ticket: string,
  {
    action,
    label,
    reminder = '',
    hint,
  }: { action: DeskAction; label: string; reminder?: string; hint?: string },
): KnownPassword {
  const desk = useQuery(queries.desk(ticket)).data;
  const [password, setPassword] = useState('');
  const [by, setBy] = useState<'technician' | 'customer' | null>(null);
  // What they typed it for decides what it serves.
  const serves = desk?.action != null && deskServes[desk.action].includes(action);
  const given = serves && (desk.state === 'held' || desk.state === 'given');
  const fromDesk = (by ?? (given ? 'customer' : 'technician')) === 'customer';
  const other = (
    <button
      type="button"
      className="self-start text-small underline"
      onClick={() => setBy(fromDesk ? 'technician' : 'customer')}
    >
      {fromDesk ? 'Type it here instead' : 'Let the customer type it, on a page of their own'}
    </button>
  );
  return {
    body: fromDesk ? { fromDesk: true, password: '' } : { fromDesk: false, password },
    ready: fromDesk ? given : password !== '',
    clear: () => setPassword(''),
    field: (
      <div className="flex max-w-md flex-col gap-1.5">
        {!fromDesk ? (
          <PasswordField
            label={label}
            reminder={reminder}
            {...(hint ? { hint } : {})}
            value={password}
            onChange={setPassword}
          />
        ) : serves && desk.state === 'held' ? (
          <Note>
            The password that the customer typed is held for this
            {desk.until ? ` until ${dateTime(desk.until)}` : ''}. Nobody sees it.
          </Note>
        ) : (
          <DeskCode number={ticket} action={action} />
        )}
        {other}
      </div>
    ),
  };
}
