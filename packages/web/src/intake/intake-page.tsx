import { zodResolver } from '@hookform/resolvers/zod';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Customer } from '@bright-cellar/contract';
import { formatBytes, visitReasonIds, visitReasons } from '@bright-cellar/core';
import { addDays, format, setHours, startOfHour } from 'date-fns';
import { useState } from 'react';
import { Controller, useForm } from 'react-hook-form';
import { useNavigate, useParams } from 'react-router';
import { z } from 'zod';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice, YesNo } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { Facts } from '../design/figures.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';

const formSchema = z.object({
  name: z.string().trim().min(1, 'Type the customer’s name.').max(120),
  phone: z.string().trim().max(40),
  email: z.string().trim().max(254),
  reason: z.enum(visitReasonIds),
  agreedBackup: z.boolean(),
  keepDays: z.string().regex(/^\d{1,4}$/, 'A number of days.'),
  promised: z.string(),
  notes: z.string().max(2000),
});
type Form = z.infer<typeof formSchema>;

/** Times a shop promises, with their dates written so that they cannot be misread. */
function promiseChoices(): Record<string, string> {
  const now = new Date();
  const offers = [
    setHours(now, 17),
    ...[1, 2, 3, 5, 7, 14].flatMap((d) => [
      setHours(addDays(now, d), 12),
      setHours(addDays(now, d), 17),
    ]),
  ];
  const choices = offers.map((at) => startOfHour(at)).filter((at) => at > now);
  return Object.fromEntries([
    ['none', 'Not promised'],
    ...choices.map((at) => [at.toISOString(), format(at, 'EEE d MMM yyyy, HH:mm')]),
  ]) as Record<string, string>;
}

/** Opens a ticket for a device on the bench: the device is read from the cable, the customer is typed or found. */
export function IntakePage() {
  const { deviceId = '' } = useParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const bench = useQuery(queries.bench()).data;
  const device = bench?.berths.find((b) => b.device?.id === deviceId)?.device;
  const [known, setKnown] = useState<Customer | null>(null);
  const form = useForm<Form>({
    resolver: zodResolver(formSchema),
    defaultValues: {
      name: '',
      phone: '',
      email: '',
      reason: 'replacement',
      agreedBackup: false,
      keepDays: '30',
      promised: 'none',
      notes: '',
    },
  });
  const typed = form.watch('name');
  const matches = useQuery(queries.customers(known ? '' : typed)).data ?? [];
  const open = useMutation({
    mutationFn: (f: Form) =>
      call(routes.newTicket, {
        body: {
          deviceId,
          customer: known ? { id: known.id } : { name: f.name, phone: f.phone, email: f.email },
          reason: f.reason,
          agreedBackup: f.agreedBackup,
          keepDays: Number(f.keepDays),
          promisedAt: f.promised === 'none' ? null : f.promised,
          notes: f.notes,
        },
      }),
    onSuccess: (ticket) => {
      client.setQueryData(queries.ticket(ticket.number).queryKey, ticket);
      void navigate(`/tickets/${ticket.number}`);
    },
  });
  const take = (customer: Customer) => {
    setKnown(customer);
    form.setValue('name', customer.name);
    form.setValue('phone', customer.phone);
    form.setValue('email', customer.email);
  };
  const [promises] = useState(promiseChoices);
  const { errors } = form.formState;
  return (
    <Page
      title="New ticket"
      now={
        device
          ? 'Note who it belongs to and what was agreed, then press Enter.'
          : 'Connect the device to a berth.'
      }
    >
      <form
        noValidate
        className="grid grid-cols-1 lg:grid-cols-[minmax(0,1fr)_20rem] items-start gap-8"
        onSubmit={(event) => void form.handleSubmit((f) => open.mutate(f))(event)}
      >
        <div className="flex max-w-2xl flex-col gap-5">
          <Section title="Customer">
            <div className="grid grid-cols-2 gap-x-4 gap-y-2">
              <div className="col-span-2">
                <TextField
                  label="Name"
                  autoFocus
                  autoComplete="off"
                  error={errors.name?.message}
                  hint={
                    known
                      ? 'Known customer.'
                      : matches.length > 0
                        ? 'Known already? Choose below.'
                        : undefined
                  }
                  {...form.register('name', { onChange: () => setKnown(null) })}
                />
                {!known && matches.length > 0 && (
                  <ul aria-label="Known customers" className="mt-1 border border-line bg-surface">
                    {matches.map((customer) => (
                      <li key={customer.id}>
                        <button
                          type="button"
                          onClick={() => take(customer)}
                          className="flex min-h-8 w-full gap-4 px-2.5 py-1 text-left hover:bg-ground"
                        >
                          <span className="font-semibold">{customer.name}</span>
                          <span className="text-soft">{customer.phone}</span>
                        </button>
                      </li>
                    ))}
                  </ul>
                )}
              </div>
              <TextField
                label="Phone"
                autoComplete="off"
                disabled={known !== null}
                {...form.register('phone')}
              />
              <TextField
                label="E-mail"
                autoComplete="off"
                disabled={known !== null}
                {...form.register('email')}
              />
            </div>
          </Section>
          <Section title="What was agreed">
            <div className="grid grid-cols-2 gap-x-4 gap-y-2">
              <Controller
                control={form.control}
                name="reason"
                render={({ field }) => (
                  <Choice
                    label="Reason for the visit"
                    value={field.value}
                    options={visitReasons}
                    onChange={field.onChange}
                  />
                )}
              />
              <Controller
                control={form.control}
                name="promised"
                render={({ field }) => (
                  <Choice
                    label="Ready by"
                    value={field.value}
                    options={promises}
                    onChange={field.onChange}
                  />
                )}
              />
              <div className="col-span-2 pb-1">
                <Controller
                  control={form.control}
                  name="agreedBackup"
                  render={({ field }) => (
                    <YesNo
                      label="The customer agreed that a backup is taken"
                      checked={field.value}
                      onChange={field.onChange}
                    />
                  )}
                />
              </div>
              <TextField
                label="Keep it for (days)"
                inputMode="numeric"
                error={errors.keepDays?.message}
                {...form.register('keepDays')}
              />
              <TextField label="Notes" error={errors.notes?.message} {...form.register('notes')} />
            </div>
          </Section>
          {open.error && <ProblemNote problem={problemFrom(open.error)} />}
          <div>
            <Button type="submit" look="main" busy={open.isPending} disabled={!device}>
              Open the ticket
            </Button>
          </div>
        </div>
        <aside
          aria-label="Device, read from the cable"
          className="border border-line bg-surface p-4"
        >
          <h2 className="pb-2 text-large">Read from the cable</h2>
          {device ? (
            <Facts
              facts={[
                ['Berth', String(device.berth)],
                ['Device', `${device.familyName} ${device.model}`],
                ['Name', device.name],
                ['Serial', <Serial key="s">{device.serial}</Serial>],
                ['IMEI', device.imei ? <Serial key="i">{device.imei}</Serial> : 'none'],
                ['OS', `${device.osName} ${device.osVersion}`],
                ['Capacity', formatBytes(device.capacity)],
                ['Charge', `${device.charge} %`],
              ]}
            />
          ) : (
            <p className="text-soft">This device is not on the bench now.</p>
          )}
        </aside>
      </form>
    </Page>
  );
}
