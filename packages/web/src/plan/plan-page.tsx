import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Plan, type Ticket } from '@bright-cellar/contract';
import {
  choiceOf,
  coverageOf,
  tallies as tallyUp,
  type ClassAmount,
  type DeviceFacts,
} from '@bright-cellar/core';
import { useDeferredValue, useMemo, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, ButtonLink } from '../design/button.js';
import { YesNo } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { Page, Section } from '../design/page.js';
import { CostFigures } from './cost-figures.js';
import { CoverageList } from './coverage-list.js';
import { indexOf, rowsOf } from './plan-rows.js';
import { PlanTable } from './plan-table.js';
import { scopeOf, usePlanCost, usePlannedScope } from './planned-scope.js';
import { SavedPlans } from './saved-plans.js';
import { ScopeChoice } from './scope-choice.js';

/** Decides what a ticket's backup takes, and shows at once what that leaves out and costs. */
export function PlanPage() {
  const { number = '' } = useParams();
  const ticket = useQuery(queries.ticket(number)).data;
  const bench = useQuery(queries.bench()).data;
  if (!ticket || !bench) return <Loading what="Fetching the ticket" />;
  const device = bench.berths.find((b) => b.device?.serial === ticket.device.serial)?.device;
  if (!device?.contentRevision) {
    return (
      <Page
        title={`What is taken, ticket ${number}`}
        now={ticket.step?.sentence ?? 'Connect the device to a berth and open it.'}
      >
        <p>The device cannot be read now, so nothing can be chosen from it.</p>
        <div>
          <ButtonLink to={`/tickets/${number}`}>Back to the ticket</ButtonLink>
        </div>
      </Page>
    );
  }
  return <Plan ticket={ticket} device={device} revision={device.contentRevision} />;
}

function Plan({
  ticket,
  device,
  revision,
}: {
  ticket: Ticket;
  device: DeviceFacts;
  revision: string;
}) {
  const { number } = ticket;
  const navigate = useNavigate();
  const { scope, set } = usePlannedScope(number);
  const listing = useQuery(queries.listing(number, revision));
  const plans = useQuery(queries.plans(number)).data ?? [];
  const index = useMemo(() => (listing.data ? indexOf(listing.data) : null), [listing.data]);
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const [naming, setNaming] = useState(false);
  const choice = useMemo(() => choiceOf(scope.mode, scope.choice), [scope.mode, scope.choice]);
  const tallies = useMemo(() => tallyUp(index?.items ?? [], choice), [index, choice]);
  const rows = useMemo(
    () => (index ? rowsOf(index, open, device.capabilities.choose) : []),
    [index, open, device.capabilities.choose],
  );
  // The device is asked once the choosing pauses, not at every press.
  const cost = usePlanCost(number, useDeferredValue(scope), revision);
  const coverage = useMemo(() => {
    const chosen = [...tallies].flatMap(([key, t]): ClassAmount[] =>
      key.includes('/') || t.chosenItems === 0
        ? []
        : [{ class: key as ClassAmount['class'], items: t.chosenItems, bytes: t.chosenBytes }],
    );
    const planned = { choice, encrypted: scope.encrypted };
    return coverageOf(device, planned, chosen, listing.data?.groups ?? []);
  }, [tallies, choice, scope.encrypted, device, listing.data]);
  const nothing = index !== null && ![...tallies.values()].some((t) => t.chosenItems > 0);
  return (
    <Page
      title={`What is taken, ticket ${number}`}
      aside={<span className="text-large">{device.name}</span>}
      now={
        nothing
          ? 'Choose at least one thing, or take everything.'
          : 'Decide what is taken; look at what is not inside; then go back to the ticket and start.'
      }
    >
      <div className="grid grid-cols-1 items-start gap-6 xl:grid-cols-[minmax(0,1fr)_19rem]">
        <div className="flex min-w-0 flex-col gap-4">
          <div className="flex flex-wrap items-end justify-between gap-4">
            <ScopeChoice device={device} scope={scope} onChange={set} />
            <Button onClick={() => setNaming(true)}>Save as …</Button>
          </div>
          {listing.error && <ProblemNote problem={problemFrom(listing.error)} />}
          {listing.isPending && <Loading what="Listing the device" />}
          {index && (
            <PlanTable
              rows={rows}
              tallies={tallies}
              choice={choice}
              cost={cost.data}
              open={open}
              onOpen={(key, isOpen) =>
                setOpen((before) => {
                  const next = new Set(before);
                  if (isOpen) next.add(key);
                  else next.delete(key);
                  return next;
                })
              }
              onChoice={(chosen) => set({ mode: 'chosen', choice: chosen })}
            />
          )}
          {listing.data?.names === null && device.capabilities.choose === 'items' && (
            <p className="text-small text-soft">
              Single items are shown without their names: the customer did not agree that the shop
              looks inside.
            </p>
          )}
          <CostFigures cost={cost} />
          <div className="flex items-end gap-4">
            <Button
              look="main"
              disabled={nothing}
              onClick={() => void navigate(`/tickets/${number}`)}
            >
              Use this for the backup
            </Button>
            <div className="w-72">
              <SavedPlans plans={plans} onTake={(plan) => set(scopeOf(plan))} />
            </div>
          </div>
        </div>
        <div className="flex flex-col gap-3">
          <YesNo
            label="Encrypted"
            checked={scope.encrypted}
            onChange={(encrypted) => set({ encrypted })}
          />
          {!scope.encrypted && (
            <Note>
              <strong>Not encrypted:</strong> whoever has the drive can read it
              {device.capabilities.sensitiveOnlyEncrypted &&
                ', and this device leaves out health, saved passwords, web history and network keys'}
              .
            </Note>
          )}
          <Section title="Inside, and not">
            <CoverageList lines={coverage} />
          </Section>
        </div>
      </div>
      {naming && <SavePlan number={number} onClose={() => setNaming(false)} scope={scope} />}
    </Page>
  );
}

function SavePlan({
  number,
  scope,
  onClose,
}: {
  number: string;
  scope: ReturnType<typeof usePlannedScope>['scope'];
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [name, setName] = useState('');
  const save = useMutation({
    mutationFn: () => call(routes.savePlan, { params: { number }, body: { ...scope, name } }),
    onSuccess: (plans: Plan[]) => {
      client.setQueryData(queries.plans(number).queryKey, plans);
      onClose();
    },
  });
  return (
    <OverlayForm
      permission={routes.savePlan.access}
      title="Save this plan"
      description="For every device of this family. Single items are not kept: their names are the customer’s."
      action="Save the plan"
      ready={name.trim() !== ''}
      work={save}
      onClose={onClose}
    >
      <TextField label="Name of the plan" value={name} onChange={(e) => setName(e.target.value)} />
    </OverlayForm>
  );
}
