import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Ticket } from '@bright-cellar/contract';
import { scheduleRuleNames, type ExtractSet, type ScheduleRule } from '@bright-cellar/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Choice, YesNo } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { minuteOf } from '../design/dates.js';
import { OverlayForm } from '../design/overlay-form.js';
import { useRackChoice } from '../extract/rack-choice.js';
import { RecordsFields, usualStyle } from '../extract/records-fields.js';
import { useSets } from '../extract/use-sets.js';
import { weekdays, type Weekday } from './schedule-words.js';

/** What is taken of a ticket's device again and again, and when. */
export function ScheduleOverlay({ ticket, onClose }: { ticket: Ticket; onClose: () => void }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { sets } = useSets(ticket);
  const [takes, setTakes] = useState<'backup' | ExtractSet>('backup');
  const [style, setStyle] = useState(usualStyle);
  const rack = useRackChoice();
  const [rule, setRule] = useState<ScheduleRule>('weekly');
  const [weekday, setWeekday] = useState<Weekday>('1');
  const [at, setAt] = useState('13:00');
  const [quietFrom, setQuietFrom] = useState('');
  const [quietTo, setQuietTo] = useState('');
  const [catchUp, setCatchUp] = useState(true);
  const [overNetwork, setOverNetwork] = useState(false);
  const [wholeCustomer, setWholeCustomer] = useState(false);
  const [minute, from, to] = [minuteOf(at), minuteOf(quietFrom), minuteOf(quietTo)];
  const isQuiet = quietFrom !== '' || quietTo !== '';
  const ready =
    (takes === 'backup' || rack.rackId !== '') &&
    minute !== null &&
    (!isQuiet || (from !== null && to !== null));
  const save = useMutation({
    mutationFn: () =>
      call(routes.schedule, {
        params: { number: ticket.number },
        body: {
          wholeCustomer,
          extract:
            takes === 'backup'
              ? null
              : { rackId: rack.rackId, what: { kind: 'records', set: takes, ...style } },
          schedule: {
            rule,
            weekday: Number(weekday),
            at: minute ?? 0,
            quiet: isQuiet ? { from: from ?? 0, to: to ?? 0 } : null,
            catchUp,
            overNetwork,
          },
        },
      }),
    onSuccess: (all) => {
      client.setQueryData(queries.regularWork().queryKey, all);
      void navigate('/regular');
    },
  });
  return (
    <OverlayForm
      permission={routes.schedule.access}
      title="Take it regularly"
      description={
        takes === 'backup'
          ? 'Its password is typed once and held in this program’s memory for fifteen days at most, never stored.'
          : 'Into an open file that anybody can read: not encrypted, and only where the customer agreed that the shop looks inside.'
      }
      action="Keep it so"
      ready={ready}
      work={save}
      onClose={onClose}
    >
      <Choice
        label="What"
        value={takes}
        options={{ backup: 'Everything, into its archive', ...sets }}
        onChange={setTakes}
      />
      {takes !== 'backup' && (
        <>
          <RecordsFields style={style} onChange={setStyle} />
          {rack.field}
        </>
      )}
      <Choice label="How often" value={rule} options={scheduleRuleNames} onChange={setRule} />
      {rule !== 'on-connect' && (
        <div className="grid grid-cols-2 gap-4">
          <Choice label="Day" value={weekday} options={weekdays} onChange={setWeekday} />
          <TextField
            label="Time"
            value={at}
            onChange={(event) => setAt(event.target.value)}
            error={minute === null ? 'A time, as 13:00.' : undefined}
          />
        </div>
      )}
      <div className="grid grid-cols-2 gap-4">
        <TextField
          label="Quiet from"
          placeholder="22:00"
          value={quietFrom}
          onChange={(event) => setQuietFrom(event.target.value)}
        />
        <TextField
          label="Quiet until"
          placeholder="06:00"
          value={quietTo}
          onChange={(event) => setQuietTo(event.target.value)}
        />
      </div>
      {rule !== 'on-connect' && (
        <YesNo
          label="One that was missed is taken when the device comes next"
          checked={catchUp}
          onChange={setCatchUp}
        />
      )}
      <YesNo label="Also over the shop network" checked={overNetwork} onChange={setOverNetwork} />
      <YesNo
        label={`For every open ticket of ${ticket.customerName}`}
        checked={wholeCustomer}
        onChange={setWholeCustomer}
      />
    </OverlayForm>
  );
}
