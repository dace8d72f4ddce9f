import { useQuery } from '@tanstack/react-query';
import { lazy } from 'react';
import { createBrowserRouter, RouterProvider, type RouteObject } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { SignInPage } from '../sign-in/sign-in-page.js';
import { EnrolPage } from '../account/enrol-page.js';
import { LockPage } from '../sign-in/lock-page.js';
import { BrokenPage } from './broken-page.js';
import { NotFoundPage } from './not-found-page.js';
import { places } from './places.js';
import { Shell } from './shell.js';

/** Every page of every place, each fetched when somebody goes there. */
const pages = places.flatMap((place) =>
  Object.entries(place.pages).map(([path, load]): RouteObject => ({
    path,
    lazy: async () => ({ Component: await load() }),
  })),
);

const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <BrokenPage />,
    hydrateFallbackElement: <Loading what="Opening" />,
    // What is wrong with one place leaves the house standing around it.
    children: [
      {
        errorElement: <BrokenPage />,
        children: [...pages, { path: '*', element: <NotFoundPage /> }],
      },
    ],
  },
]);

/** Fetched once in the life of a shop. */
const FirstVisitPage = lazy(async () => ({
  default: (await import('../setup/first-visit-page.js')).FirstVisitPage,
}));

/** Before the shop: its door or, where nobody keeps it yet, the first visit. */
function Outside() {
  const setUp = useQuery(queries.setUp());
  if (setUp.isPending) return <Loading what="Opening" />;
  return setUp.data?.needed === true ? (
    <FirstVisitPage onBegun={() => void router.navigate('/first-steps')} />
  ) : (
    <SignInPage />
  );
}

/** Nothing of the shop is shown to anybody who is not signed in. */
export function Shop() {
  const session = useQuery(queries.session());
  if (session.data) {
    const { locked, mustEnrol, technician } = session.data;
    if (mustEnrol && !locked) return <EnrolPage />;
    return (
      <>
        {/* What was typed stays there, where nobody sees or reaches it; it is nobody else's who comes after. */}
        <div key={technician.id} className={locked ? 'hidden' : 'contents'}>
          <RouterProvider router={router} />
        </div>
        {locked && <LockPage name={technician.name} />}
      </>
    );
  }
  if (session.isPending) return <Loading what="Opening" />;
  if (session.isSuccess) return <Outside />;
  return (
    <main className="mx-auto max-w-xl p-8">
      <h1 className="mb-4 text-title">Bright Cellar</h1>
      <ProblemNote problem={problemFrom(session.error)} />
    </main>
  );
}
