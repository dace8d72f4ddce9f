import { useQuery } from '@tanstack/react-query';
import { Navigate, useParams } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Page } from '../design/page.js';

/** A label was scanned: goes on to its rack, wherever that is now. */
export function RackByLabel() {
  const { code = '' } = useParams();
  const found = useQuery(queries.found(code));
  if (found.isPending) return <Loading what="Looking for the rack of that label" />;
  const rack = found.data?.find(({ kind }) => kind === 'rack');
  if (rack) return <Navigate to={rack.path} replace />;
  return (
    <Page title={`Label ${code}`} now="Go to the racks and look there by name." calm>
      {found.error ? (
        <ProblemNote problem={problemFrom(found.error)} />
      ) : (
        <p>No rack has that label. It may be one of another shop.</p>
      )}
    </Page>
  );
}
