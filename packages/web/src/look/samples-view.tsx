import { useMutation } from '@tanstack/react-query';
import { routes, type LookSamples } from '@bright-cellar/contract';
import { useEffect } from 'react';
import { call, problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { dateTime } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { LookPicture } from './bytes.js';

/** A few things out of the backup, to be looked for on the device with the customer: others at each press. */
export function SamplesView({ id }: { id: string }) {
  const draw = useMutation({
    mutationFn: () => call(routes.lookSamples, { params: { id }, body: {} }),
  });
  const { mutate } = draw;
  useEffect(() => mutate(), [mutate]);
  return (
    <section aria-label="Drawn to be compared" className="flex flex-col gap-4">
      <div className="flex flex-wrap items-center gap-3">
        <p className="min-w-48 flex-1">
          Look for each of these on the device, with the customer. Say on the ticket’s run sheet
          that it was checked.
        </p>
        <Button busy={draw.isPending} onClick={() => mutate()}>
          Draw others
        </Button>
      </div>
      {draw.error && <ProblemNote problem={problemFrom(draw.error)} />}
      {draw.data ? (
        <Drawn id={id} drawn={draw.data} />
      ) : (
        draw.isPending && <Loading what="Drawing" />
      )}
    </section>
  );
}

function Drawn({ id, drawn }: { id: string; drawn: LookSamples }) {
  const { photographs, contacts, said, notes, screens } = drawn;
  return (
    <>
      {photographs.length > 0 && (
        <Section title="Photographs">
          <ul className="flex flex-wrap gap-3">
            {photographs.map(({ item, at, album, isPicture }) => (
              <li key={item} className="w-48 text-small">
                {isPicture ? (
                  <LookPicture
                    id={id}
                    of="files"
                    number={item}
                    pixels={384}
                    alt=""
                    className="w-48"
                  />
                ) : (
                  <span className="text-soft">It cannot be drawn here.</span>
                )}
                <span className="block">{dateTime(at)}</span>
                <span className="text-soft">{album}</span>
              </li>
            ))}
          </ul>
        </Section>
      )}
      {contacts.length > 0 && (
        <Section title="Contacts">
          <ul>
            {contacts.map(({ name, numbers }) => (
              <li key={`${name} ${numbers.join()}`} className="border-t border-line py-1">
                <strong>{name}</strong> {numbers.join(', ')}
              </li>
            ))}
          </ul>
        </Section>
      )}
      {said.map(({ people, source, last }) => (
        <Section key={people.join()} title={`The last with ${people.join(', ')}, in ${source}`}>
          <ol>
            {last.map(({ at, isOwn, from, text }) => (
              <li
                key={`${at} ${text}`}
                className="grid grid-cols-[11rem_minmax(0,1fr)] gap-4 border-t border-line py-1"
              >
                <span className="text-right text-small text-soft">
                  {dateTime(at)}
                  <br />
                  {isOwn ? 'The owner' : from}
                </span>
                <span className="break-words">{text}</span>
              </li>
            ))}
          </ol>
        </Section>
      ))}
      {notes.map(({ title, text }) => (
        <Section key={title} title={`A note: ${title}`}>
          <p className="max-h-40 overflow-y-auto border-t border-line py-1 whitespace-pre-wrap">
            {text}
          </p>
        </Section>
      ))}
      {screens.map(({ pages, dock }, n) => (
        <Section key={n} title="Home screen">
          <ol className="flex flex-wrap gap-6">
            {[...pages, dock].map((names, at) => (
              <li key={at}>
                <span className="text-small text-soft">
                  {at < pages.length ? `Page ${at + 1}` : 'On every page'}
                </span>
                <p>{names.join(', ')}</p>
              </li>
            ))}
          </ol>
        </Section>
      ))}
    </>
  );
}
