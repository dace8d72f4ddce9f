import { useQuery } from '@tanstack/react-query';
import { queries } from '../api/queries.js';
import { useSignOut } from '../api/use-sign-out.js';
import { Button } from '../design/button.js';
import { Loading } from '../design/loading.js';
import { Page } from '../design/page.js';
import { FactorsSection } from './factors-section.js';

/** The house asks for more than a password: nothing else is open until there is something more. */
export function EnrolPage() {
  const account = useQuery(queries.account()).data;
  const signOut = useSignOut();
  if (!account) return <Loading what="Fetching your account" />;
  return (
    <main className="mx-auto max-w-3xl">
      <Page
        title="More than a password"
        now="The house rules ask for more than a password: set up a code or a passkey, then the shop opens."
        aside={<Button onClick={() => void signOut()}>Sign out</Button>}
      >
        <FactorsSection account={account} />
      </Page>
    </main>
  );
}
