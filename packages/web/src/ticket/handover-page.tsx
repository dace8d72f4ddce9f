import { useQuery } from '@tanstack/react-query';
import { handoverLanguages, handoverPath, type HandoverLanguage } from '@bright-cellar/contract';
import { useState } from 'react';
import { useParams } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { ButtonLink } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Page } from '../design/page.js';
import { Paper } from './paper.js';

/** What the customer takes home, read through with them before it is printed. */
export function HandoverPage() {
  const { number = '' } = useParams();
  const [language, setLanguage] = useState<HandoverLanguage>('en');
  const sheet = useQuery(queries.handoverSheet(number, language));
  return (
    <Page
      title={`Handover sheet, ticket ${number}`}
      now="Go through it with the customer, in their language; then print it."
    >
      <div className="flex flex-wrap items-end gap-4">
        <div className="w-48">
          <Choice
            label="Language of the customer"
            value={language}
            options={handoverLanguages}
            onChange={setLanguage}
          />
        </div>
        <Paper path={handoverPath(number, language)} name="Print it" />
        <ButtonLink to={`/tickets/${number}`}>Back to the ticket</ButtonLink>
      </div>
      {sheet.error && <ProblemNote problem={problemFrom(sheet.error)} />}
      {sheet.isPending && <Loading what="Writing the sheet" />}
      {sheet.data && (
        <article
          lang={language}
          aria-label={sheet.data.title}
          className="flex max-w-3xl flex-col gap-5 border border-line bg-surface px-8 py-6"
        >
          {sheet.data.sections.map(({ title, lines }, n) => (
            <section key={`${title} ${n}`}>
              <h2 className="pb-1 text-large">{title}</h2>
              <dl>
                {lines.map(({ name, text }) => (
                  <div
                    key={`${name} ${text}`}
                    className="grid grid-cols-[11rem_minmax(0,1fr)] gap-4 border-t border-line py-1.5"
                  >
                    <dt className="text-soft">{name}</dt>
                    <dd>{text}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </article>
      )}
    </Page>
  );
}
