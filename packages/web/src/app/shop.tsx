import { useQuery } from '@tanstack/react-query';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { SignInPage } from '../sign-in/sign-in-page.js';
import { BrokenPage } from './broken-page.js';
import { NotFoundPage } from './not-found-page.js';
import { Shell } from './shell.js';

/** Each place is fetched when somebody goes there. */
const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <BrokenPage />,
    hydrateFallbackElement: <Loading what="Opening" />,
    children: [
      {
        errorElement: <BrokenPage />,
        children: [
          {
            path: '/',
            lazy: async () => ({
              Component: (await import('../counter/counter-page.js')).CounterPage,
            }),
          },
          ...['/tickets/new', '/tickets/new/:deviceId'].map((path) => ({
            path,
            lazy: async () => ({
              Component: (await import('../intake/intake-page.js')).IntakePage,
            }),
          })),
          {
            path: '/tickets/:number',
            lazy: async () => ({
              Component: (await import('../ticket/ticket-page.js')).TicketPage,
            }),
          },
          {
            path: '/tickets/:number/plan',
            lazy: async () => ({ Component: (await import('../plan/plan-page.js')).PlanPage }),
          },
          {
            path: '/regular',
            lazy: async () => ({
              Component: (await import('../regular/regular-page.js')).RegularPage,
            }),
          },
          {
            path: '/today',
            lazy: async () => ({
              Component: (await import('../reports/reports-page.js')).ReportsPage,
            }),
          },
          {
            path: '/settings',
            lazy: async () => ({
              Component: (await import('../settings/settings-page.js')).SettingsPage,
            }),
          },
          {
            path: '/account',
            lazy: async () => ({
              Component: (await import('../account/account-page.js')).AccountPage,
            }),
          },
          {
            path: '/archives',
            lazy: async () => ({
              Component: (await import('../archives/archives-page.js')).ArchivesPage,
            }),
          },
          {
            path: '/archives/:id',
            lazy: async () => ({
              Component: (await import('../archives/archive-page.js')).ArchivePage,
            }),
          },
          {
            path: '/restore/:archiveId/:backupId',
            lazy: async () => ({
              Component: (await import('../restore/restore-page.js')).RestorePage,
            }),
          },
          { path: '*', element: <NotFoundPage /> },
        ],
      },
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
