import { useQuery } from '@tanstack/react-query';
import type { Berth } from '@bright-cellar/contract';
import {
  firstUnmet,
  restoreReadiness,
  serialTail,
  totalOf,
  type Condition,
  type DeviceFacts,
  type NewMigration,
  type PlanMode,
} from '@bright-cellar/core';
import { useState, type ReactNode } from 'react';
import { queries } from '../api/queries.js';
import { Choice, YesNo } from '../design/choice.js';
import { ConditionList } from '../design/condition-list.js';
import { TextField } from '../design/field.js';
import { Serial } from '../design/serial.js';

/** Whether a backup also goes onto another device while it is taken, and onto which. */
export interface OntoAnother {
  /** Null where there is no device for it. */
  field: ReactNode;
  /** Null where it is not wanted. */
  onto: NewMigration['onto'] | null;
  /** Nothing is wanted, or all that it takes is there. */
  ready: boolean;
  /** What the button that starts it says more. */
  words: string;
}

/** Old to new: asks for the device that all of it goes onto, and for its serial. */
export function useOntoAnother(source: DeviceFacts, mode: PlanMode): OntoAnother {
  const bench = useQuery(queries.bench()).data;
  const [isWanted, setWanted] = useState(false);
  const [chosen, setChosen] = useState<string | null>(null);
  const [tail, setTail] = useState('');
  const others = (bench?.berths ?? []).flatMap((berth) =>
    berth.device?.family === source.family && berth.device.serial !== source.serial
      ? [{ berth, device: berth.device }]
      : [],
  );
  const target = others.find(({ device }) => device.id === chosen) ?? others[0];
  if (mode !== 'everything' || !target) return { field: null, onto: null, ready: true, words: '' };
  const { berth, device } = target;
  const conditions = conditionsOf(source, device);
  const isReady = conditions.every(({ met }) => met);
  const isRight = tail.trim().toUpperCase() === serialTail(device.serial).toUpperCase();
  return {
    field: (
      <fieldset className="flex flex-col gap-2 border-l-4 border-edge bg-ground px-4 py-2">
        <YesNo
          label="Old to new: send it onto another device while it is taken"
          checked={isWanted}
          onChange={setWanted}
        />
        {isWanted && (
          <>
            {others.length > 1 && (
              <div className="w-72">
                <Choice
                  label="Onto"
                  value={device.id}
                  options={Object.fromEntries(others.map((one) => [one.device.id, named(one)]))}
                  onChange={(id) => {
                    setChosen(id);
                    setTail('');
                  }}
                />
              </div>
            )}
            {others.length === 1 && (
              <p>
                Onto berth {berth.number}, {device.familyName} {device.model},{' '}
                <Serial>{device.serial}</Serial>
              </p>
            )}
            {isReady ? (
              <TextField
                label="Its serial, last 4"
                className="w-28"
                value={tail}
                onChange={(e) => setTail(e.target.value)}
                error={tail.trim().length === 4 && !isRight ? 'Not this device.' : undefined}
                maxLength={4}
                autoComplete="off"
                mono
              />
            ) : (
              <>
                <p className="font-semibold">{firstUnmet(conditions)?.remedy}</p>
                <ConditionList conditions={conditions} />
              </>
            )}
          </>
        )}
      </fieldset>
    ),
    onto: isWanted ? { deviceId: device.id, serialTail: tail } : null,
    ready: !isWanted || (isReady && isRight),
    words: isWanted ? `, and send it onto berth ${berth.number}` : '',
  };
}

const named = ({ berth, device }: { berth: Berth; device: DeviceFacts }) =>
  `Berth ${berth.number}, ${device.familyName} ${device.model}, ${device.serial}`;

/** What must hold of a device that takes all that is on another. */
function conditionsOf(source: DeviceFacts, target: DeviceFacts): Condition[] {
  const { family, familyName, osVersion } = source;
  const { bytes } = totalOf(source.content ?? []);
  return restoreReadiness(target, { family, familyName, osVersion, bytes });
}
