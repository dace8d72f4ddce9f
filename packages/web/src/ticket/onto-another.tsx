import { useQuery } from '@tanstack/react-query';
import type { Berth } from '@bright-cellar/contract';
import {
  firstUnmet,
  restoreReadiness,
  totalOf,
  type Condition,
  type DeviceFacts,
  type NewMigration,
  type PlanMode,
} from '@bright-cellar/core';
import { useState, type ReactNode } from 'react';
import { queries } from '../api/queries.js';
import { useSerialTail } from '../bench/serial-tail.js';
import { Choice, YesNo } from '../design/choice.js';
import { ConditionList } from '../design/condition-list.js';
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
  const others = (bench?.berths ?? []).flatMap((berth) =>
    berth.device?.family === source.family && berth.device.serial !== source.serial
      ? [{ berth, device: berth.device }]
      : [],
  );
  const target = others.find(({ device }) => device.id === chosen) ?? others[0];
  const serial = useSerialTail(target?.device.serial ?? null, 'Its serial, last 4');
  if (mode !== 'everything' || !target) return { field: null, onto: null, ready: true, words: '' };
  const { berth, device } = target;
  const conditions = conditionsOf(source, device);
  const isReady = conditions.every(({ met }) => met);
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
                    serial.clear();
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
              serial.field
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
    onto: isWanted ? { deviceId: device.id, serialTail: serial.tail } : null,
    ready: !isWanted || (isReady && serial.isRight),
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
