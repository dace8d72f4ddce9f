import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { useState } from 'react';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { day } from '../design/dates.js';
import { Button } from '../design/button.js';
import { OverlayForm } from '../design/overlay-form.js';
import { Section } from '../design/page.js';
import { EscrowPeople, isComplete, nobodyYet } from './escrow-people.js';

/** The shop's escrow: two people together can open what customers agreed to, when a password is lost. */
export function EscrowSection() {
  const client = useQueryClient();
  const escrow = useQuery(queries.escrow()).data;
  const [asking, setAsking] = useState(false);
  const [people, setPeople] = useState(nobodyYet);
  const setUp = useMutation({
    mutationFn: () => call(routes.setUpEscrow, { body: { people } }),
    onSuccess: (view) => {
      client.setQueryData(queries.escrow().queryKey, view);
      setPeople(nobodyYet);
      setAsking(false);
    },
  });
  return (
    <Section title="Escrow">
      <p>
        {escrow?.since
          ? `Set up on ${day(escrow.since)}: ${escrow.people.join(' and ')} together open an archive whose customer agreed to it.`
          : 'Not set up. Without it, a lost password is lost: nobody can open the archive.'}
      </p>
      <div>
        <Button onClick={() => setAsking(true)}>
          {escrow?.since ? 'Set it up anew …' : 'Set it up …'}
        </Button>
      </div>
      {asking && (
        <OverlayForm
          permission={routes.setUpEscrow.access}
          title="Set the escrow up"
          description="Each of the two types a phrase that the other does not see. Neither opens anything alone. Write each on paper and keep them apart: archives made under it open with nothing else. What was made under an earlier one opens with its own two phrases, as before."
          action="Set it up"
          ready={isComplete(people)}
          work={setUp}
          onClose={() => setAsking(false)}
        >
          <EscrowPeople people={people} onChange={setPeople} />
        </OverlayForm>
      )}
    </Section>
  );
}
