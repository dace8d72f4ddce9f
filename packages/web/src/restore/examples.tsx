import { useQuery } from '@tanstack/react-query';
import { dataClasses, fieldNames } from '@bright-cellar/core';
import { useState } from 'react';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { dateTime } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';

/** Single items of a loss report, each as it was and as it will arrive. @param id of the work that made it */
export function Examples({ id }: { id: string }) {
  const [isOpen, setOpen] = useState(false);
  const examples = useQuery({ ...queries.crossingExamples(id), enabled: isOpen });
  if (!isOpen) {
    return (
      <div className="pt-3">
        <Button onClick={() => setOpen(true)}>See single items, as they will arrive</Button>
      </div>
    );
  }
  return (
    <section aria-label="Single items" className="flex flex-col gap-3 pt-3 text-small">
      {examples.isPending && <Loading what="Fetching some of them" />}
      {examples.error && <ProblemNote problem={problemFrom(examples.error)} />}
      {examples.data?.length === 0 && <p>All that goes over arrives as it was.</p>}
      {examples.data?.map(({ class: of, examples: some }) => (
        <table key={of} className="w-full border-collapse">
          <caption className="pb-1 text-left font-semibold">
            {dataClasses[of]}, some that change
          </caption>
          <thead>
            <tr className="text-left text-soft">
              <th className="pr-3 font-normal">What</th>
              <th className="pr-3 font-normal">Field</th>
              <th className="pr-3 font-normal">As it was</th>
              <th className="font-normal">As it will be</th>
            </tr>
          </thead>
          <tbody>
            {some.flatMap(({ title, fields }, n) =>
              fields.map(({ field, was, becomes }, at) => (
                <tr key={`${n} ${field}`} className="border-t border-line align-top *:py-1">
                  <td className="pr-3 break-words">{at === 0 ? titleOf(title) : ''}</td>
                  <td className="pr-3">{fieldNames[field]}</td>
                  <td className="max-w-56 pr-3 break-words">{was}</td>
                  <td className="max-w-56 break-words">
                    {becomes === '' ? <span className="text-soft">nothing</span> : becomes}
                  </td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      ))}
    </section>
  );
}

/** Of what has no name stands when it was. */
const titleOf = (title: string): string =>
  /^\d{4}-\d\d-\d\dT[\d:.]+Z$/.test(title) ? dateTime(title) : title;
