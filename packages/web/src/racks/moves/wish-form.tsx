import type { Rack } from '@bright-cellar/contract';
import type { Stock } from '@bright-cellar/core/placement';
import { useState } from 'react';
import { Choice } from '../../design/choice.js';
import { TextField } from '../../design/field.js';
import { wishNames, type Wished } from './plan-address.js';

/** More names than these are narrowed down by typing. */
const NAMES = 60;

/** What somebody wants of what lies where. */
export function WishForm({
  racks,
  stock,
  wished,
  onChange,
}: {
  racks: readonly Rack[];
  stock: Stock;
  wished: Wished;
  onChange: (wished: Wished) => void;
}) {
  const set = (change: Partial<Wished>) => onChange({ ...wished, ...change });
  const { kind } = wished;
  const names = Object.fromEntries(
    racks.map(({ id, name, present }) => [id, present ? name : `${name}, away`]),
  );
  const rackLabel =
    kind === 'room' || kind === 'empty' ? 'On which rack' : kind === 'spread' ? 'One rack' : 'Onto';
  return (
    <div className="flex flex-col gap-3">
      <Choice
        label="What is wanted"
        value={kind}
        options={wishNames}
        onChange={(next) => set({ kind: next })}
      />
      {kind === 'older' && (
        <TextField
          label="Nothing newer than"
          type="date"
          value={wished.before}
          onChange={({ target }) => set({ before: target.value })}
        />
      )}
      {kind === 'customer' && (
        <Named
          label="Customer"
          value={wished.customer}
          all={stock.archives.map((a) => [a.customerId, a.customerName])}
          onChange={(customer) => set({ customer })}
        />
      )}
      {kind === 'together' && (
        <Named
          label="Device"
          value={wished.device}
          all={stock.archives.map((a) => [a.deviceId, `${a.deviceName}, ${a.customerName}`])}
          onChange={(device) => set({ device })}
        />
      )}
      {kind !== 'by-hand' && kind !== 'together' && (
        <Choice
          label={rackLabel}
          placeholder="Choose a rack"
          value={wished.rack}
          options={names}
          onChange={(rack) => set({ rack })}
        />
      )}
      {kind === 'spread' && (
        <Choice
          label="The other"
          placeholder="Choose a rack"
          value={wished.other}
          options={names}
          onChange={(other) => set({ other })}
        />
      )}
      {kind === 'room' && (
        <TextField
          label="Room, in GB"
          hint="Beside the reserve, which stays."
          inputMode="decimal"
          value={wished.gigabytes}
          onChange={({ target }) => set({ gigabytes: target.value })}
        />
      )}
      <p className="text-small text-soft">
        Archives are moved by hand too: drag one onto another rack, or go to it with the tab and
        arrow keys, take it with the space bar and carry it with the arrows.
      </p>
    </div>
  );
}

/** One of many names: typed letters narrow them down. */
function Named({
  label,
  value,
  all,
  onChange,
}: {
  label: string;
  value: string;
  all: readonly (readonly [id: string, name: string])[];
  onChange: (id: string) => void;
}) {
  const [letters, setLetters] = useState('');
  const wanted = letters.trim().toLowerCase();
  const found = [...new Map(all)]
    .filter(([id, name]) => id === value || name.toLowerCase().includes(wanted))
    .sort(([, a], [, b]) => (a < b ? -1 : 1));
  const shown = found.slice(0, NAMES);
  return (
    <>
      {all.length > NAMES && (
        <TextField
          label={`${label}: some letters of it`}
          value={letters}
          onChange={({ target }) => setLetters(target.value)}
        />
      )}
      <Choice
        label={label}
        placeholder={`Choose the ${label.toLowerCase()}`}
        {...(found.length > shown.length ? { hint: 'There are more: type some letters.' } : {})}
        value={value}
        options={Object.fromEntries(shown)}
        onChange={onChange}
      />
    </>
  );
}
