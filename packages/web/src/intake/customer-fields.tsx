import { useQuery } from '@tanstack/react-query';
import type { Customer } from '@bright-cellar/contract';
import type { UseFormReturn } from 'react-hook-form';
import { queries } from '../api/queries.js';
import { TextField } from '../design/field.js';
import { Section } from '../design/page.js';
import type { IntakeValues } from './intake-form.js';

/** A new customer, or one who was here before. */
export function CustomerFields({
  form,
  customer,
  onCustomer,
}: {
  form: UseFormReturn<IntakeValues>;
  /** Known already; null for a new one. */
  customer: Customer | null;
  onCustomer: (customer: Customer | null) => void;
}) {
  const typed = form.watch('name');
  const matches = useQuery(queries.customers(customer ? '' : typed)).data ?? [];
  const take = (found: Customer) => {
    onCustomer(found);
    form.setValue('name', found.name);
    form.setValue('phone', found.phone);
    form.setValue('email', found.email);
  };
  const hint = customer
    ? 'Known customer. Type over it for another one.'
    : matches.length > 0
      ? 'Known already? Choose below.'
      : undefined;
  return (
    <Section title="Customer">
      <div className="grid grid-cols-2 gap-x-4 gap-y-2">
        <div className="col-span-2">
          <TextField
            label="Name"
            autoFocus
            autoComplete="off"
            error={form.formState.errors.name?.message}
            hint={hint}
            {...form.register('name', { onChange: () => onCustomer(null) })}
          />
          {!customer && matches.length > 0 && (
            <ul aria-label="Known customers" className="mt-1 border border-line bg-surface">
              {matches.map((found) => (
                <li key={found.id}>
                  <button
                    type="button"
                    onClick={() => take(found)}
                    className="flex min-h-8 w-full gap-4 px-2.5 py-1 text-left hover:bg-ground"
                  >
                    <span className="font-semibold">{found.name}</span>
                    <span className="text-soft">{found.phone}</span>
                  </button>
                </li>
              ))}
            </ul>
          )}
        </div>
        <TextField
          label="Phone"
          autoComplete="off"
          disabled={customer !== null}
          {...form.register('phone')}
        />
        <TextField
          label="E-mail"
          autoComplete="off"
          disabled={customer !== null}
          {...form.register('email')}
        />
      </div>
    </Section>
  );
}
