import { Controller, type UseFormReturn } from 'react-hook-form';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { Section } from '../design/page.js';
import type { IntakeValues } from './intake-form.js';

const kinds = { phone: 'Phone', tablet: 'Tablet', handset: 'Keyboard handset' } as const;

/** A device that cannot be read: what is printed on it. It is tied to the real one once that is on the bench. */
export function DescribedDevice({ form }: { form: UseFormReturn<IntakeValues> }) {
  const { errors } = form.formState;
  return (
    <Section title="Device, as it is printed on it">
      <div className="grid grid-cols-3 gap-x-4 gap-y-2">
        <Controller
          control={form.control}
          name="kind"
          render={({ field }) => (
            <Choice label="Kind" value={field.value} options={kinds} onChange={field.onChange} />
          )}
        />
        <TextField
          label="Make"
          autoComplete="off"
          error={errors.familyName?.message}
          {...form.register('familyName')}
        />
        <TextField
          label="Model"
          autoComplete="off"
          error={errors.model?.message}
          {...form.register('model')}
        />
        <TextField
          label="Serial"
          mono
          autoComplete="off"
          hint="Empty if it cannot be read."
          {...form.register('serial')}
        />
        <TextField label="IMEI" mono autoComplete="off" {...form.register('imei')} />
      </div>
    </Section>
  );
}
