import { Check, ChevronDown } from 'lucide-react';
import { Checkbox, Select } from 'radix-ui';
import { useId } from 'react';
import { Field, inputShape } from './field.js';

/** One of a few. */
export function Choice<Value extends string>({
  label,
  hint,
  placeholder,
  value,
  options,
  onChange,
}: {
  label: string;
  hint?: string;
  /** Shown while nothing is chosen: while the value is none of the options. */
  placeholder?: string;
  value: Value;
  /** Only what can be chosen here. */
  options: Readonly<Partial<Record<Value, string>>>;
  onChange: (value: Value) => void;
}) {
  return (
    <Field label={label} hint={hint}>
      {({ id }) => (
        <Select.Root value={value} onValueChange={(chosen) => onChange(chosen as Value)}>
          <Select.Trigger
            id={id}
            className={`${inputShape} flex items-center justify-between text-left`}
          >
            <Select.Value placeholder={placeholder} />
            <ChevronDown className="size-4 shrink-0" aria-hidden />
          </Select.Trigger>
          <Select.Portal>
            <Select.Content
              position="popper"
              sideOffset={4}
              // What chose an option would press the trigger too, where that has the focus back before the key is over.
              onKeyDown={(event) => event.key === 'Enter' && event.preventDefault()}
              className="z-50 w-(--radix-select-trigger-width) border border-edge bg-surface p-1 shadow-lg"
            >
              <Select.Viewport>
                {(Object.entries(options) as [Value, string][]).map(([id_, name]) => (
                  <Select.Item
                    key={id_}
                    value={id_}
                    className="flex min-h-9 cursor-pointer items-center justify-between rounded-sm px-2 outline-none data-highlighted:bg-ink data-highlighted:text-ground"
                  >
                    <Select.ItemText>{name}</Select.ItemText>
                    <Select.ItemIndicator>
                      <Check className="size-4" />
                    </Select.ItemIndicator>
                  </Select.Item>
                ))}
              </Select.Viewport>
            </Select.Content>
          </Select.Portal>
        </Select.Root>
      )}
    </Field>
  );
}

/** Yes or no. */
export function YesNo({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}) {
  const id = useId();
  return (
    <div className="flex items-center gap-2.5">
      <Checkbox.Root
        id={id}
        checked={checked}
        onCheckedChange={(state) => onChange(state === true)}
        className="flex size-6 shrink-0 items-center justify-center rounded-sm border border-edge bg-surface data-[state=checked]:bg-ink data-[state=checked]:text-ground"
      >
        <Checkbox.Indicator>
          <Check className="size-4" />
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id} className="cursor-pointer">
        {label}
      </label>
    </div>
  );
}
