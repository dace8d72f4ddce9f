import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';

/** Where a screen cannot be shown: its program is not there any more, or there is a mistake in it. */
export function BrokenPage() {
  return (
    <div className="mx-auto flex max-w-xl flex-col items-start gap-4 p-8">
      <h1 className="text-title">This page cannot be shown</h1>
      <ProblemNote
        problem={{
          what: 'Bright Cellar was updated while this page was open, or the page has a fault.',
          safe: 'Work that runs goes on, and everything that was saved is there.',
          next: 'Load the page again. If it happens once more, tell whoever looks after this computer.',
        }}
      />
      <Button onClick={() => window.location.reload()}>Load the page again</Button>
    </div>
  );
}
