import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { queries } from '../api/queries.js';
import { Loading } from '../design/loading.js';
import { IntakeForm } from './intake-form.js';

/** Opens a ticket: for a device on the bench, which is read from the cable, or for a dead one that is described. */
export function IntakePage() {
  const { deviceId = null } = useParams();
  const bench = useQuery(queries.bench()).data;
  const device = bench?.berths.find((b) => b.device?.id === deviceId)?.device ?? null;
  const known = useQuery({
    ...queries.knownVisits(deviceId ?? ''),
    enabled: device !== null,
  });
  if (!bench || (device && known.isPending)) return <Loading what="Reading the device" />;
  return (
    <IntakeForm
      key={deviceId}
      device={device}
      isDescribed={deviceId === null}
      known={known.data ?? { device: null, customer: null, visits: [] }}
    />
  );
}
