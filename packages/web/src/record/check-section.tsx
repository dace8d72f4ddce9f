import { useMutation, useQuery } from '@tanstack/react-query';
import { routes, type AuditCheck } from '@bright-cellar/contract';
import { countOf, formatCount } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { dateTime } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

/** A digest in groups that a person can compare with paper. */
const inGroups = (digest: string) => digest.match(/.{1,8}/g)?.join(' ') ?? '';

/** Where the record ends, and whether all of it follows from its first entry. */
export function CheckSection() {
  const [printed, setPrinted] = useState('');
  const head = useQuery(queries.recordHead()).data;
  const check = useMutation({
    mutationFn: () => call(routes.checkAudit, { query: { printed } }),
  });
  const digits = printed.replaceAll(/\s/g, '');
  const error =
    digits !== '' && (!/^[\da-f]*$/i.test(digits) || digits.length < ENOUGH_DIGITS)
      ? `${ENOUGH_DIGITS} digits or more, 0 to 9 and a to f.`
      : undefined;
  return (
    <Section title="Whether it is whole">
      <form
        noValidate
        className="flex max-w-4xl flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (error === undefined) check.mutate();
        }}
      >
        {head && (
          <p>
            {formatCount(head.entries)} {head.entries === 1 ? 'entry' : 'entries'}, each sealed to
            all before it. The seal of the last:
            <span className="block font-mono">{inGroups(head.digest)}</span>
          </p>
        )}
        <div className="flex flex-wrap items-start gap-3">
          <TextField
            label="Seal from an earlier day’s sheet"
            hint="Its first digits are enough. Without one, only the seals are followed."
            className="grow"
            mono
            maxLength={90}
            error={error}
            value={printed}
            onChange={({ target }) => setPrinted(target.value)}
          />
          <Button type="submit" className="mt-7" busy={check.isPending}>
            Check the record
          </Button>
        </div>
        {check.error && <ProblemNote problem={problemFrom(check.error)} />}
        {check.data && <Found found={check.data} looked={digits !== ''} />}
      </form>
    </Section>
  );
}

const ENOUGH_DIGITS = 16;

function Found({ found, looked }: { found: AuditCheck; looked: boolean }) {
  const { entries, broken, printedAt } = found;
  if (broken) {
    const { entry, at } = broken;
    return (
      <ProblemNote
        problem={{
          what:
            at === null
              ? `Entries are missing at the end, from number ${formatCount(entry)} on.`
              : `Entry ${formatCount(entry)}, of ${dateTime(at)}, was changed, or one before it was taken away.`,
          safe: `The ${countOf(entries, 'entry', 'entries')} before it ${entries === 1 ? 'is' : 'are'} as written. Archives are not touched by this.`,
          next: 'Somebody wrote into the database beside the program: find out who can reach this computer, and compare with a saved catalogue.',
        }}
      />
    );
  }
  if (looked && printedAt === null) {
    return (
      <ProblemNote
        problem={{
          what: 'No entry has the seal that was typed.',
          safe: 'The entries that are here follow each other.',
          next: 'Compare the digits with the paper once more. If they are right, the record was written anew after that day: compare with a saved catalogue.',
        }}
      />
    );
  }
  return (
    <Note tone="proven">
      All {countOf(entries, 'entry', 'entries')} follow each other
      {printedAt
        ? `; the seal that was printed is that of entry ${formatCount(printedAt.entry)}, of ${dateTime(printedAt.at)}: nothing before it was changed since.`
        : '. That nothing was written anew, a seal that was printed earlier can show.'}
    </Note>
  );
}
