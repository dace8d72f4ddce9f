import { zodResolver } from '@hookform/resolvers/zod';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Customer, type KnownVisits } from '@bright-cellar/contract';
import { visitReasonIds, visitReasons, type DeviceFacts } from '@bright-cellar/core';
import { addDays, format, setHours, startOfHour } from 'date-fns';
import { useState } from 'react';
import { Controller, useForm } from 'react-hook-form';
import { useNavigate, useSearchParams } from 'react-router';
import { z } from 'zod';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Choice, YesNo } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { CustomerFields } from './customer-fields.js';
import { DescribedDevice } from './described-device.js';
import { DeviceSide } from './device-side.js';

const formSchema = z.object({
  name: z.string().trim().min(1, 'Type the customer’s name.').max(120),
  phone: z.string().trim().max(40),
  email: z.string().trim().max(254),
  familyName: z.string().trim().max(60),
  model: z.string().trim().max(60),
  kind: z.enum(['phone', 'tablet', 'handset']),
  serial: z.string().trim().max(64),
  imei: z.string().trim().max(20),
  reason: z.enum(visitReasonIds),
  backup: z.boolean(),
  lookIn: z.boolean(),
  escrow: z.boolean(),
  keepDays: z
    .string()
    .regex(/^\d{1,4}$/, 'A number of days; 0 for not at all.')
    .refine((days) => Number(days) <= 3650, 'Ten years at most.'),
  promised: z.string(),
  notes: z.string().max(2000),
});
/** Where the device is described, its make and model must be. */
const describedSchema = formSchema.extend({
  familyName: formSchema.shape.familyName.min(1, 'Type the make.'),
  model: formSchema.shape.model.min(1, 'Type the model.'),
});
export type IntakeValues = z.infer<typeof formSchema>;

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

/** Whose it is, what was agreed, and why it is here: one form, filled with the keyboard alone. */
export function IntakeForm({
  device,
  isDescribed,
  known,
}: {
  device: DeviceFacts | null;
  /** No device on the bench: what is printed on it is typed. */
  isDescribed: boolean;
  known: KnownVisits;
}) {
  const navigate = useNavigate();
  // Whoever came from somewhere goes back there: to a place of this application only.
  const back = useSearchParams()[0].get('back') ?? '';
  const client = useQueryClient();
  const [customer, setCustomer] = useState<Customer | null>(known.customer);
  const [askedOwner, setAskedOwner] = useState(false);
  const form = useForm<IntakeValues>({
    resolver: zodResolver(isDescribed ? describedSchema : formSchema),
    defaultValues: {
      name: known.customer?.name ?? '',
      phone: known.customer?.phone ?? '',
      email: known.customer?.email ?? '',
      familyName: '',
      model: '',
      kind: 'phone',
      serial: '',
      imei: '',
      reason: isDescribed ? 'recovered' : 'replacement',
      backup: false,
      lookIn: false,
      escrow: false,
      keepDays: '30',
      promised: 'none',
      notes: '',
    },
  });
  const open = useMutation({
    mutationFn: (f: IntakeValues) =>
      call(routes.newTicket, {
        body: {
          device: isDescribed
            ? {
                familyName: f.familyName,
                model: f.model,
                kind: f.kind,
                serial: f.serial,
                imei: f.imei,
              }
            : { deviceId: device?.id ?? '' },
          customer: customer
            ? { id: customer.id }
            : { name: f.name, phone: f.phone, email: f.email },
          otherOwnerConfirmed: askedOwner,
          reason: f.reason,
          agreed: {
            backup: f.backup,
            lookIn: f.lookIn,
            escrow: f.escrow,
            keepDays: Number(f.keepDays),
          },
          promisedAt: f.promised === 'none' ? null : f.promised,
          notes: f.notes,
        },
      }),
    onSuccess: (ticket) => {
      client.setQueryData(queries.ticket(ticket.number).queryKey, ticket);
      void navigate(/^\/restore\/[\w/?=-]+$/.test(back) ? back : `/tickets/${ticket.number}`);
    },
  });
  const [promises] = useState(promiseChoices);
  const hasEscrow = (useQuery(queries.escrow()).data?.people.length ?? 0) > 0;
  const { errors } = form.formState;
  const problem = open.error ? problemFrom(open.error) : null;
  // Of a device that was only described nobody knows whose it was until the server has looked its serial up.
  const otherOwner =
    (known.customer !== null && customer?.id !== known.customer.id) ||
    problem?.code === 'device-of-another';
  const agreement = (name: 'backup' | 'lookIn' | 'escrow', label: string) => (
    <Controller
      control={form.control}
      name={name}
      render={({ field }) => (
        <YesNo label={label} checked={field.value} onChange={field.onChange} />
      )}
    />
  );
  return (
    <Page title="New ticket" now={whatNow(device, isDescribed, otherOwner && !askedOwner)}>
      <form
        noValidate
        className="grid grid-cols-1 items-start gap-8 lg:grid-cols-[minmax(0,1fr)_20rem]"
        onSubmit={(event) => void form.handleSubmit((f) => open.mutate(f))(event)}
      >
        <div className="flex max-w-2xl flex-col gap-4">
          <CustomerFields form={form} customer={customer} onCustomer={setCustomer} />
          {otherOwner && (
            <Note>
              <p>
                {known.customer ? (
                  <>
                    This device came with <strong>{known.customer.name}</strong> before.
                  </>
                ) : (
                  problem?.what
                )}{' '}
                Ask whose it is now.
              </p>
              <div className="pt-1">
                <YesNo
                  label="I asked: it is this customer’s now"
                  checked={askedOwner}
                  onChange={setAskedOwner}
                />
              </div>
            </Note>
          )}
          {isDescribed && <DescribedDevice form={form} />}
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
              <div className="col-span-2 flex flex-col gap-1.5 pb-1">
                {agreement('backup', 'The customer agreed that a backup is taken')}
                {agreement('lookIn', 'The shop may look inside; each look is on record')}
                {hasEscrow ? (
                  agreement('escrow', 'Two people of the shop may open it if the password is lost')
                ) : (
                  <p className="text-small text-soft">
                    No escrow is set up in the house rules: if the password is lost, nobody can open
                    the backup. Say so.
                  </p>
                )}
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
          {problem && problem.code !== 'device-of-another' && <ProblemNote problem={problem} />}
          <div>
            <MayButton
              permission={routes.newTicket.access}
              type="submit"
              look="main"
              busy={open.isPending}
              disabled={(!device && !isDescribed) || (otherOwner && !askedOwner)}
            >
              Open the ticket
            </MayButton>
          </div>
        </div>
        {!isDescribed && <DeviceSide device={device} known={known} />}
      </form>
    </Page>
  );
}

function whatNow(device: DeviceFacts | null, isDescribed: boolean, mustAsk: boolean): string {
  if (mustAsk) return 'Ask whose this device is: it came with another customer before.';
  if (isDescribed) return 'Note whose it is and what is printed on it, then press Enter.';
  return device
    ? 'Note who it belongs to and what was agreed, then press Enter.'
    : 'Connect the device to a berth.';
}
