import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive } from '@bright-cellar/contract';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { day } from '../design/dates.js';
import { Note, ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { DisposeOverlay } from './dispose-overlay.js';
import { keptWords } from './kept-words.js';
import { HoldOverlay, KeepLongerOverlay } from './keep-overlays.js';

/** How long an archive is kept, and what can be done about that. */
export function KeepingSection({
  archive,
  busy,
  onHandOut,
}: {
  archive: Archive;
  busy: boolean;
  /** A package to take along is to be written. */
  onHandOut: () => void;
}) {
  const client = useQueryClient();
  const [asked, setAsked] = useState<'longer' | 'hold' | 'dispose' | null>(null);
  const keeping = useQuery(queries.keeping(archive.id));
  const lift = useMutation({
    mutationFn: () => call(routes.liftHold, { params: { id: archive.id } }),
    onSuccess: (now) => client.setQueryData(queries.keeping(archive.id).queryKey, now),
  });
  const { data } = keeping;
  const error = keeping.error ?? lift.error;
  const close = () => setAsked(null);
  return (
    <Section title="How long it is kept">
      {error && <ProblemNote problem={problemFrom(error)} />}
      {data && (
        <>
          <p>{keptWords(data)}</p>
          {data.longer && (
            <p className="text-small text-soft">
              {data.longer.by}: {data.longer.reason}
            </p>
          )}
          {data.hold && (
            <Note>
              Held since {day(data.hold.at)} by {data.hold.by}: {data.hold.reason}
            </Note>
          )}
          <span className="flex flex-wrap gap-2">
            <MayButton permission={routes.keepLonger.access} onClick={() => setAsked('longer')}>
              Keep it longer
            </MayButton>
            {data.hold ? (
              <MayButton
                permission={routes.liftHold.access}
                busy={lift.isPending}
                onClick={() => lift.mutate()}
              >
                Lift the hold
              </MayButton>
            ) : (
              <MayButton permission={routes.hold.access} onClick={() => setAsked('hold')}>
                Hold it
              </MayButton>
            )}
            <MayButton
              permission={routes.startExport.access}
              disabled={busy || archive.backups.length === 0}
              onClick={onHandOut}
            >
              Hand it out
            </MayButton>
            <MayButton
              permission="dispose"
              look="danger"
              disabled={busy || data.hold !== null}
              onClick={() => setAsked('dispose')}
            >
              Destroy it …
            </MayButton>
          </span>
        </>
      )}
      {asked === 'longer' && <KeepLongerOverlay archiveId={archive.id} onClose={close} />}
      {asked === 'hold' && <HoldOverlay archiveId={archive.id} onClose={close} />}
      {asked === 'dispose' && <DisposeOverlay archive={archive} onClose={close} />}
    </Section>
  );
}
