import { useQuery } from '@tanstack/react-query';
import { Command } from 'cmdk';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { useMay } from '../account/may.js';
import { queries } from '../api/queries.js';
import { entranceOf } from './place.js';
import { places } from './places.js';
import { applyTheme, savedTheme } from './theme.js';

/** Reaches any ticket, archive, device or action by typing a few letters of it. */
export function CommandBar({
  open,
  onOpenChange,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}) {
  const [text, setText] = useState('');
  const navigate = useNavigate();
  const may = useMay();
  const found = useQuery(queries.found(text)).data ?? [];
  const run = (action: () => void) => () => {
    onOpenChange(false);
    setText('');
    action();
  };
  const item =
    'flex min-h-9 items-baseline gap-3 rounded-sm px-3 py-1.5 data-[selected=true]:bg-ink data-[selected=true]:text-ground';
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Find"
      shouldFilter={false}
      overlayClassName="fixed inset-0 z-40 bg-[#100f0d]/50"
      contentClassName="fixed top-24 left-1/2 z-50 w-[36rem] -translate-x-1/2 border border-edge bg-surface shadow-xl"
    >
      <Command.Input
        value={text}
        onValueChange={setText}
        placeholder="Ticket number, customer, device, serial, or what to do"
        className="w-full border-b border-line bg-transparent px-4 py-3 text-large outline-none placeholder:text-soft"
      />
      <Command.List className="max-h-96 overflow-y-auto p-2">
        <Command.Empty className="p-3 text-soft">Nothing by that name.</Command.Empty>
        {found.map((f) => (
          <Command.Item
            key={f.path + f.kind}
            value={f.path + f.kind}
            className={item}
            onSelect={run(() => void navigate(f.path))}
          >
            <span className="font-semibold">{f.title}</span>
            <span className="text-small">{f.detail}</span>
          </Command.Item>
        ))}
        {(
          [
            ...places.flatMap((place) => {
              const { command, permission } = place;
              return command === undefined || (permission && !may(permission))
                ? []
                : [[command, () => void navigate(entranceOf(place))] as const];
            }),
            [
              'Change between daylight and dim',
              () => applyTheme(savedTheme() === 'day' ? 'dim' : 'day'),
            ],
          ] as const
        )
          .filter(([name]) => name.toLowerCase().includes(text.trim().toLowerCase()))
          .map(([name, action]) => (
            <Command.Item key={name} value={name} className={item} onSelect={run(action)}>
              {name}
            </Command.Item>
          ))}
      </Command.List>
    </Command.Dialog>
  );
}
