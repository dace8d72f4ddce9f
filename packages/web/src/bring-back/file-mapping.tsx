import type { FileTold } from '@bright-cellar/contract';
import {
  columnRoleNames,
  columnRoles,
  dateOrderNames,
  type ColumnRole,
  type Mapping,
} from '@bright-cellar/core';
import { useState } from 'react';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';

const NONE = '\u0000';
/** So many names are asked for at a time. */
const NAMES_AT_ONCE = 12;

/** Which column is what, how dates are told, and whose numbers the names are. */
export function FileMapping({
  told,
  busy,
  onMap,
}: {
  told: FileTold;
  busy: boolean;
  onMap: (how: { mapping: Mapping; numbers: Record<string, string> }) => void;
}) {
  const { columns, mapping, unknown } = told;
  const [numbers, setNumbers] = useState<Record<string, string>>({});
  const options = { [NONE]: 'none', ...Object.fromEntries(columns.map((name) => [name, name])) };
  const change = (part: Partial<Mapping>) => onMap({ mapping: { ...mapping, ...part }, numbers });
  const put = (role: ColumnRole, column: string) =>
    change({ columns: { ...mapping.columns, [role]: column === NONE ? null : column } });
  return (
    <div className="flex flex-col gap-3">
      {columnRoles.map((role) => (
        <Choice
          key={role}
          label={columnRoleNames[role]}
          value={mapping.columns[role] ?? NONE}
          options={options}
          onChange={(column) => put(role, column)}
        />
      ))}
      <Choice
        label="Dates"
        value={mapping.dates}
        options={dateOrderNames}
        onChange={(dates) => change({ dates })}
      />
      {unknown.length > 0 && (
        <form
          noValidate
          aria-label="Numbers of names"
          className="flex flex-col gap-2 border-t border-line pt-3"
          onSubmit={(event) => {
            event.preventDefault();
            onMap({ mapping, numbers });
          }}
        >
          <p className="text-small">
            <strong>Names without a number.</strong> The device’s contacts do not have them: what
            they said stays out until somebody says their numbers.
          </p>
          {unknown.slice(0, NAMES_AT_ONCE).map((name) => (
            <TextField
              key={name}
              label={name}
              type="tel"
              autoComplete="off"
              value={numbers[name] ?? ''}
              onChange={({ target }) => setNumbers({ ...numbers, [name]: target.value })}
            />
          ))}
          {unknown.length > NAMES_AT_ONCE && (
            <p className="text-small text-soft">
              {unknown.length - NAMES_AT_ONCE} more after these.
            </p>
          )}
          <div>
            <Button type="submit" busy={busy}>
              Use these numbers
            </Button>
          </div>
        </form>
      )}
    </div>
  );
}
