import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Rack, type RackRules } from '@bright-cellar/contract';
import { useState } from 'react';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { OverlayForm } from '../design/overlay-form.js';
import { RackFields } from './rack-fields.js';

/** Another name, reserve or note for a rack. */
export function ChangeRackOverlay({ rack, onClose }: { rack: Rack; onClose: () => void }) {
  const client = useQueryClient();
  const [rules, setRules] = useState<RackRules>({
    ...{ name: rack.name, note: rack.note, reserve: rack.reserve },
    offPremises: rack.offPremises,
  });
  const change = useMutation({
    mutationFn: () => call(routes.changeRack, { params: { id: rack.id }, body: rules }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: queries.racks().queryKey });
      onClose();
    },
  });
  return (
    <OverlayForm
      permission={routes.changeRack.access}
      title={`Change ${rack.name}`}
      description="It holds for everybody at once. What lies there stays as it is."
      action="Save it"
      ready={rules.name.trim() !== ''}
      work={change}
      onClose={onClose}
    >
      <RackFields rules={rules} onChange={setRules} />
    </OverlayForm>
  );
}
