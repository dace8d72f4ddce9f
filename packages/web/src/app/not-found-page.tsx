import { Link } from 'react-router';
import { Page } from '../design/page.js';

export function NotFoundPage() {
  return (
    <Page title="Nothing here" now="Go back to the counter." calm>
      <p>
        There is no page at this address.{' '}
        <Link className="underline" to="/">
          Go to the counter
        </Link>
        .
      </p>
    </Page>
  );
}
