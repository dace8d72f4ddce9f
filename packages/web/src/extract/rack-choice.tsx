import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { queries } from '../api/queries.js';
import { Choice } from '../design/choice.js';

/** One of the racks that are here; the first until somebody chooses. @returns its id, empty while none is known, and the field */
export function useRackChoice() {
  const racks = (useQuery(queries.racks()).data ?? []).filter((rack) => rack.present);
  const [chosen, setChosen] = useState('');
  const rackId = chosen || (racks[0]?.id ?? '');
  const field = (
    <Choice<string>
      label="Onto"
      value={rackId}
      options={Object.fromEntries(racks.map((rack) => [rack.id, rack.name]))}
      onChange={setChosen}
    />
  );
  return { rackId, field };
}
