import { Ellipsis } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';

/** What is seldom wanted, or dangerous, out of the way of what is usual. */
export function MoreMenu({
  label,
  items,
}: {
  label: string;
  items: readonly { name: string; danger?: boolean; disabled?: boolean; onSelect: () => void }[];
}) {
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
          {items.map((item) => (
            <DropdownMenu.Item
              key={item.name}
              disabled={item.disabled === true}
              onSelect={item.onSelect}
              className={`flex min-h-9 cursor-pointer items-center rounded-sm px-3 outline-none data-disabled:cursor-default data-disabled:text-soft data-highlighted:bg-ink data-highlighted:text-ground ${item.danger === true ? 'text-danger' : ''}`}
            >
              {item.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
