import { useMutation, useQuery } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { serialTail, updateAdvice, type DeviceFacts } from '@bright-cellar/core';
import { useState } from 'react';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { OverlayForm } from '../design/overlay-form.js';

/** An update that the device's OS offers, with what the shop's policy says of it. */
export function OsUpdate({ device, proven }: { device: DeviceFacts; proven: boolean }) {
  const settings = useQuery(queries.settings()).data;
  const [asking, setAsking] = useState(false);
  const [tail, setTail] = useState('');
  const update = useMutation({
    mutationFn: () =>
      call(routes.updateDevice, { params: { deviceId: device.id }, body: { serialTail: tail } }),
    onSuccess: () => setAsking(false),
  });
  const advice = settings && updateAdvice(settings.updatePolicy, device, { proven });
  if (!advice) return null;
  return (
    <div className="flex flex-col items-start gap-2 border-l-4 border-edge bg-ground px-4 py-2">
      <p>{advice.sentence}</p>
      {advice.allowed && <Button onClick={() => setAsking(true)}>Update it …</Button>}
      {asking && (
        <OverlayForm
          permission={routes.updateDevice.access}
          title={`Update to ${device.osName} ${device.osUpdate?.version ?? ''}`}
          description="The device restarts, leaves the bench and returns. A backup restores only onto its OS or a newer one."
          action="Update the device"
          ready={tail.trim().toUpperCase() === serialTail(device.serial).toUpperCase()}
          work={update}
          onClose={() => setAsking(false)}
        >
          <TextField
            label="Serial, last 4"
            mono
            maxLength={4}
            value={tail}
            onChange={(event) => setTail(event.target.value)}
          />
        </OverlayForm>
      )}
    </div>
  );
}
