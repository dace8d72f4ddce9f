import { useQuery } from '@tanstack/react-query';
import type { ComponentType } from 'react';
import { createBrowserRouter, RouterProvider, type RouteObject } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { SignInPage } from '../sign-in/sign-in-page.js';
import { BrokenPage } from './broken-page.js';
import { NotFoundPage } from './not-found-page.js';
import { Shell } from './shell.js';

/** A place that is fetched when somebody goes there. */
const place = (path: string, load: () => Promise<ComponentType>): RouteObject => ({
  path,
  lazy: async () => ({ Component: await load() }),
});

const intake = async () => (await import('../intake/intake-page.js')).IntakePage;
const places = [
  place('/', async () => (await import('../counter/counter-page.js')).CounterPage),
  place('/tickets/new', intake),
  place('/tickets/new/:deviceId', intake),
  place('/tickets/:number', async () => (await import('../ticket/ticket-page.js')).TicketPage),
  place('/tickets/:number/plan', async () => (await import('../plan/plan-page.js')).PlanPage),
  place('/regular', async () => (await import('../regular/regular-page.js')).RegularPage),
  place('/today', async () => (await import('../reports/reports-page.js')).ReportsPage),
  place('/settings', async () => (await import('../settings/settings-page.js')).SettingsPage),
  place('/account', async () => (await import('../account/account-page.js')).AccountPage),
  place('/archives', async () => (await import('../archives/archives-page.js')).ArchivesPage),
  place('/archives/:id', async () => (await import('../archives/archive-page.js')).ArchivePage),
  place(
    '/restore/:archiveId/:backupId',
    async () => (await import('../restore/restore-page.js')).RestorePage,
  ),
  { path: '*', element: <NotFoundPage /> },
];

const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <BrokenPage />,
    hydrateFallbackElement: <Loading what="Opening" />,
    // What is wrong with one place leaves the house standing around it.
    children: [{ errorElement: <BrokenPage />, children: places }],
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
