import type { Permission } from '@bright-cellar/core';
import { Ellipsis } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useMay, useWhoMay } from './may.js';

export interface MoreItem {
  name: string;
  /** What it asks for: to whom it is not open, it says who may. */
  permission?: Permission;
  danger?: boolean;
  disabled?: boolean;
  onSelect: () => void;
}

/** What is seldom wanted, or dangerous, out of the way of what is usual. */
export function MoreMenu({ label, items }: { label: string; items: readonly MoreItem[] }) {
  const may = useMay();
  const who = useWhoMay();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={label}
        className="flex size-9 items-center justify-center rounded-sm border border-edge bg-surface hover:bg-ground"
      >
        <Ellipsis className="size-4" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-50 min-w-48 border border-edge bg-surface p-1 shadow-lg"
        >
          {items.map(({ name, permission, danger, disabled, onSelect }) => {
            const isOpen = permission === undefined || may(permission);
            return (
              <DropdownMenu.Item
                key={name}
                disabled={disabled === true || !isOpen}
                onSelect={onSelect}
                className={`flex min-h-9 cursor-pointer flex-col justify-center rounded-sm px-3 outline-none data-disabled:cursor-default data-disabled:text-soft data-highlighted:bg-ink data-highlighted:text-ground ${danger === true ? 'text-danger' : ''}`}
              >
                {name}
                {!isOpen && <span className="text-small">Only {who(permission)} may.</span>}
              </DropdownMenu.Item>
            );
          })}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
