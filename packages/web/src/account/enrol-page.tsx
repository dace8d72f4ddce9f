import { useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { call } from '../api/call.js';
import { forgetShop, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Loading } from '../design/loading.js';
import { Page } from '../design/page.js';
import { FactorsSection } from './factors-section.js';

/** The house asks for more than a password: nothing else is open until there is something more. */
export function EnrolPage() {
  const client = useQueryClient();
  const account = useQuery(queries.account()).data;
  const signOut = async () => {
    await call(routes.signOut);
    forgetShop(client);
  };
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
