import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { Printer } from 'lucide-react';
import { useState } from 'react';
import { createPortal } from 'react-dom';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { day } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { useNow } from '../design/use-now.js';

const TAIL = 6;
/** So that a person can read it off paper. */
const inGroups = (key: string) => key.match(/.{1,8}/g)?.join(' ') ?? '';

/** Makes a recovery key, shows it once, and has its end typed from the paper before anything is sealed to it. */
export function RecoveryKeyOverlay({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const [tail, setTail] = useState('');
  const make = useMutation({ mutationFn: () => call(routes.offerRecoveryKey), gcTime: 0 });
  const key = make.data;
  const use = useMutation({
    mutationFn: () => call(routes.useRecoveryKey, { body: { recipient: key?.recipient ?? '' } }),
    onSuccess: async (now) => {
      client.setQueryData(queries.saves().queryKey, now);
      await client.invalidateQueries({ queryKey: queries.condition().queryKey });
      onClose();
    },
  });
  const typed = tail.trim().toUpperCase();
  const isRight = typed !== '' && typed === key?.identity.slice(-TAIL);
  return (
    <OverlayForm
      permission={routes.useRecoveryKey.access}
      title="The recovery key"
      description="It opens every save of the catalogue that is made from now on: names, numbers and agreements of all customers. It is shown once and kept nowhere. Keep it on paper, away from the shop."
      action="Seal saves to this key"
      ready={isRight}
      work={use}
      onClose={onClose}
    >
      {make.error && <ProblemNote problem={problemFrom(make.error)} />}
      {key ? (
        <>
          <p className="border border-edge px-3 py-2 font-mono break-words" data-recovery-key>
            {inGroups(key.identity)}
          </p>
          <div>
            <Button onClick={() => window.print()}>
              <Printer /> Print it
            </Button>
          </div>
          <TextField
            label={`Its last ${TAIL} signs, read from the paper`}
            mono
            autoComplete="off"
            maxLength={TAIL + 2}
            value={tail}
            error={typed.length >= TAIL && !isRight ? 'That is not how it ends.' : undefined}
            onChange={({ target }) => setTail(target.value)}
          />
          {createPortal(<RecoverySheet identity={key.identity} />, document.body)}
        </>
      ) : (
        <div>
          <Button look="main" autoFocus busy={make.isPending} onClick={() => make.mutate()}>
            Make it and show it
          </Button>
        </div>
      )}
    </OverlayForm>
  );
}

/** What is printed, and nothing else of the screen. */
function RecoverySheet({ identity }: { identity: string }) {
  const now = useNow();
  return (
    <section className="paper" aria-hidden>
      <h1>Recovery key</h1>
      <p>
        Opens the saved catalogue of this shop. Whoever has it and a rack reads what stands in the
        catalogue: keep it away from both. Made on {day(now.toISOString())}.
      </p>
      <p className="paper-words">{inGroups(identity)}</p>
      <p>
        On another computer: npm run restore-catalogue -- --from RACK. The key is typed without its
        spaces, in large or small letters.
      </p>
    </section>
  );
}
