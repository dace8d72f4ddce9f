import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type RegularWork } from '@bright-cellar/contract';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { MoreMenu } from '../account/more-menu.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime, day, time } from '../design/dates.js';
import { Button } from '../design/button.js';
import { Loading } from '../design/loading.js';
import { Mark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { Page } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { useKnownPassword } from '../password/known-password.js';
import { CircleDashed, Clock, TriangleAlert } from 'lucide-react';
import { scheduleWords, takingWords } from './schedule-words.js';

/** Devices that are backed up again and again: when next, what was missed, and what it waits for. */
export function RegularPage() {
  const all = useQuery(queries.regularWork()).data;
  const client = useQueryClient();
  const navigate = useNavigate();
  const [arming, setArming] = useState<RegularWork | null>(null);
  const end = useMutation({
    mutationFn: (id: string) => call(routes.endSchedule, { params: { id } }),
    onSuccess: (left) => client.setQueryData(queries.regularWork().queryKey, left),
  });
  if (!all) return <Loading what="Fetching what is taken regularly" />;
  const now = whatNow(all);
  return (
    <Page title="Taken regularly" now={now.sentence} calm={!now.needs}>
      {end.error && <ProblemNote problem={problemFrom(end.error)} />}
      {all.length === 0 ? (
        <p className="border border-line bg-surface px-4 py-6 text-soft">
          Nothing is taken regularly. Open a device’s ticket and choose “Take it regularly”.
        </p>
      ) : (
        <div className="overflow-x-auto border border-line bg-surface">
          <table className="w-full border-collapse text-left" aria-label="Taken regularly">
            <thead>
              <tr className="border-b border-edge text-small text-soft [&_th]:h-8 [&_th]:px-3 [&_th]:font-semibold">
                <th>Device</th>
                <th>Customer</th>
                <th>What, and when</th>
                <th>Last done</th>
                <th>Next due</th>
                <th>Now</th>
                <th>
                  <span className="sr-only">What can be done</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {all.map((regular) => (
                <tr
                  key={regular.id}
                  className="h-12 border-b border-line last:border-b-0 [&_td]:px-3 [&_td]:py-1.5"
                >
                  <td>
                    <Link
                      to={`/tickets/${regular.ticketNumber}`}
                      className="font-semibold underline"
                    >
                      {regular.device.name}
                    </Link>
                    <br />
                    <Serial>{regular.device.serial}</Serial>
                  </td>
                  <td>{regular.customerName}</td>
                  <td className="min-w-40 py-1">
                    <span className="font-semibold">
                      {regular.sync
                        ? `Kept in step with ${regular.sync.with ?? 'their own books'}`
                        : takingWords(regular.extract)}
                    </span>
                    <br />
                    {scheduleWords(regular.schedule)}
                  </td>
                  <td>{regular.lastDone ? <Moment at={regular.lastDone} /> : 'never'}</td>
                  <td>{regular.nextDue ? <Moment at={regular.nextDue} /> : 'on connect'}</td>
                  <td>
                    <StateMark state={regular.state} />
                    {regular.waitsFor && <p className="pt-0.5 text-small">{regular.waitsFor}</p>}
                  </td>
                  <td>
                    <span className="flex items-center justify-end gap-2 py-1">
                      {regular.extract || regular.sync ? null : regular.armedUntil ? (
                        <span className="max-w-36 text-small text-soft">
                          password held until {dateTime(regular.armedUntil)}
                        </span>
                      ) : (
                        <Button onClick={() => setArming(regular)}>Type its password</Button>
                      )}
                      <MoreMenu
                        label={`More for ${regular.device.name}`}
                        items={[
                          {
                            name: 'Not regularly any more',
                            permission: routes.endSchedule.access,
                            onSelect: () => end.mutate(regular.id),
                          },
                        ]}
                      />
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {arming && (
        <ArmOverlay
          regular={arming}
          onClose={() => setArming(null)}
          onArmed={() => {
            setArming(null);
            void navigate('/regular');
          }}
        />
      )}
    </Page>
  );
}

/** A day with its hour beneath, so that neither is broken in a narrow column. */
function Moment({ at }: { at: string }) {
  return (
    <time dateTime={at} className="whitespace-nowrap">
      {day(at)}
      <br />
      {time(at)}
    </time>
  );
}

function whatNow(all: readonly RegularWork[]): { sentence: string; needs: boolean } {
  const late = all.find((r) => r.state !== 'waiting' && r.waitsFor !== null);
  if (late) return { sentence: `${late.device.name}: ${late.waitsFor ?? ''}`, needs: true };
  return all.length === 0
    ? { sentence: 'Nothing to do here.', needs: false }
    : {
        sentence: 'Nothing needs you: what is due starts when its device is connected.',
        needs: false,
      };
}

function StateMark({ state }: { state: RegularWork['state'] }) {
  if (state === 'missed')
    return (
      <Mark icon={<TriangleAlert />} tone="danger">
        Missed
      </Mark>
    );
  return state === 'due' ? (
    <Mark icon={<Clock />} tone="plain">
      Due
    </Mark>
  ) : (
    <Mark icon={<CircleDashed />} tone="soft">
      Waiting
    </Mark>
  );
}

function ArmOverlay({
  regular,
  onClose,
  onArmed,
}: {
  regular: RegularWork;
  onClose: () => void;
  onArmed: () => void;
}) {
  const client = useQueryClient();
  const password = useKnownPassword(regular.ticketNumber, {
    action: 'regular',
    label: 'Password of the archive',
  });
  const arm = useMutation({
    mutationFn: () => call(routes.armSchedule, { params: { id: regular.id }, body: password.body }),
    onSuccess: (all) => {
      client.setQueryData(queries.regularWork().queryKey, all);
      onArmed();
    },
  });
  return (
    <OverlayForm
      permission={routes.armSchedule.access}
      title={`Password of ${regular.device.name}`}
      description="It is tried on the archive, then held in this program’s memory for fifteen days or until the program ends. It is never stored."
      action="Hold it"
      ready={password.ready}
      work={arm}
      onClose={onClose}
    >
      {password.field}
    </OverlayForm>
  );
}
