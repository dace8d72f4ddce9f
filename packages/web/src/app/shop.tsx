import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense } from 'react';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { problemFrom } from '../api/call.js';
import { AccountPage } from '../account/account-page.js';
import { queries } from '../api/queries.js';
import { ArchivePage } from '../archives/archive-page.js';
import { ArchivesPage } from '../archives/archives-page.js';
import { CounterPage } from '../counter/counter-page.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { IntakePage } from '../intake/intake-page.js';
import { PlanPage } from '../plan/plan-page.js';
import { RegularPage } from '../regular/regular-page.js';
import { RestorePage } from '../restore/restore-page.js';
import { SettingsPage } from '../settings/settings-page.js';
import { SignInPage } from '../sign-in/sign-in-page.js';
import { TicketPage } from '../ticket/ticket-page.js';
import { NotFoundPage } from './not-found-page.js';
import { Shell } from './shell.js';

/** Fetched when somebody looks at it: it brings the charts along. */
const ReportsPage = lazy(async () => ({
  default: (await import('../reports/reports-page.js')).ReportsPage,
}));

const router = createBrowserRouter([
  {
    element: <Shell />,
    children: [
      { path: '/', element: <CounterPage /> },
      { path: '/tickets/new', element: <IntakePage /> },
      { path: '/tickets/new/:deviceId', element: <IntakePage /> },
      { path: '/tickets/:number', element: <TicketPage /> },
      { path: '/tickets/:number/plan', element: <PlanPage /> },
      { path: '/regular', element: <RegularPage /> },
      {
        path: '/today',
        element: (
          <Suspense fallback={<Loading what="Adding up the day" />}>
            <ReportsPage />
          </Suspense>
        ),
      },
      { path: '/settings', element: <SettingsPage /> },
      { path: '/account', element: <AccountPage /> },
      { path: '/archives', element: <ArchivesPage /> },
      { path: '/archives/:id', element: <ArchivePage /> },
      { path: '/restore/:archiveId/:backupId', element: <RestorePage /> },
      { path: '*', element: <NotFoundPage /> },
    ],
  },
]);

/** Nothing of the shop is shown to anybody who is not signed in. */
export function Shop() {
  const session = useQuery(queries.session());
  if (session.data) return <RouterProvider router={router} />;
  if (session.isPending) return <Loading what="Opening" />;
  if (session.isSuccess) return <SignInPage />;
  return (
    <main className="mx-auto max-w-xl p-8">
      <h1 className="mb-4 text-title">Bright Cellar</h1>
      <ProblemNote problem={problemFrom(session.error)} />
    </main>
  );
}
