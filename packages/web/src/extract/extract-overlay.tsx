import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Ticket } from '@bright-cellar/contract';
import { countOf, formatBytes, type ExtractSet, type NewExtract } from '@bright-cellar/core';
import { useState } from 'react';
import { call } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { Choice, YesNo } from '../design/choice.js';
import { Overlay } from '../design/overlay.js';
import { OverlayForm } from '../design/overlay-form.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { useRackChoice } from './rack-choice.js';
import { DaysFields, isBackwards } from '../design/days-fields.js';
import { RecordsFields, usualStyle } from './records-fields.js';
import { useSets } from './use-sets.js';

/** Only the messages, the calls, one chat, or single applications: into open files on a rack. */
export function ExtractOverlay({ ticket, onClose }: { ticket: Ticket; onClose: () => void }) {
  const { number } = ticket;
  const client = useQueryClient();
  const { applications, sets } = useSets(ticket);
  const [startedId, setStartedId] = useState<string | null>(null);
  const [set, setSet] = useState<ExtractSet | 'applications'>('messages');
  const [style, setStyle] = useState(usualStyle);
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const rack = useRackChoice();
  const what: NewExtract['what'] =
    set === 'applications'
      ? { kind: 'applications', applications: [...chosen] }
      : { kind: 'records', set, ...style };
  const start = useMutation({
    mutationFn: () =>
      call(routes.startExtract, { params: { number }, body: { rackId: rack.rackId, what } }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      setStartedId(operation.id);
    },
  });
  if (startedId) {
    return (
      <Overlay open onOpenChange={(open) => !open && onClose()} title="Taking it out">
        <OperationPanel id={startedId} />
      </Overlay>
    );
  }
  return (
    <OverlayForm
      permission={routes.startExtract.access}
      title="Take only a part out"
      description="Into open files that anybody can read: not encrypted, and only where the customer agreed that the shop looks inside."
      action="Take it out"
      ready={
        rack.rackId !== '' && (set === 'applications' ? chosen.length > 0 : !isBackwards(style))
      }
      work={start}
      onClose={onClose}
    >
      <Choice
        label="What"
        value={set}
        options={{ ...sets, applications: 'Single applications' }}
        onChange={setSet}
      />
      {set === 'applications' ? (
        <fieldset className="flex flex-col gap-1">
          <legend className="pb-1 font-semibold">Which applications</legend>
          {applications.map((a) => (
            <YesNo
              key={a.id}
              label={`${a.name}, ${countOf(a.items, 'item')}, ${formatBytes(a.bytes)}${a.sealed ? ', sealed' : ''}`}
              checked={chosen.includes(a.id)}
              onChange={(on) =>
                setChosen(on ? [...chosen, a.id] : chosen.filter((other) => other !== a.id))
              }
            />
          ))}
        </fieldset>
      ) : (
        <>
          <RecordsFields style={style} onChange={setStyle} />
          <div className="grid grid-cols-2 gap-4">
            <DaysFields
              first="Said or called from"
              days={style}
              onChange={(days) => setStyle({ ...style, ...days })}
            />
          </div>
        </>
      )}
      {rack.field}
    </OverlayForm>
  );
}
