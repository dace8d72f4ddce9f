import { useQuery } from '@tanstack/react-query';
import { daySheetPath, type DaySheet } from '@bright-cellar/contract';
import { Link, useSearchParams } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, buttonShape } from '../design/button.js';
import { dateTime } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';

const names = { opening: 'Opening', closing: 'Closing' } as const;

/** What whoever opens the shop has to know, and whoever closes it: the same that is printed. */
export function DayPage() {
  const [address, setAddress] = useSearchParams();
  const which: DaySheet['which'] = address.get('sheet') === 'closing' ? 'closing' : 'opening';
  const other = which === 'opening' ? 'closing' : 'opening';
  const sheet = useQuery(queries.daySheet(which));
  if (sheet.error) return <ProblemNote problem={problemFrom(sheet.error)} />;
  if (!sheet.data) return <Loading what="Gathering the day" />;
  return (
    <Page
      title={names[which]}
      now={sheet.data.now}
      calm={sheet.data.now.startsWith('Nothing')}
      aside={
        <span className="flex gap-2">
          <Button onClick={() => setAddress({ sheet: other }, { replace: true })}>
            {names[other]} sheet
          </Button>
          <a
            className={buttonShape('plain')}
            href={daySheetPath(which)}
            target="_blank"
            rel="noreferrer"
          >
            Print it
          </a>
        </span>
      }
    >
      {sheet.data.sections.map((section) => (
        <Part key={section.title} {...section} />
      ))}
      <p className="text-small text-soft">As it was on {dateTime(sheet.data.at)}.</p>
    </Page>
  );
}

function Part({ title, lines, empty }: DaySheet['sections'][number]) {
  // What is empty is said, and takes no room from what is not.
  if (lines.length === 0) {
    return (
      <p>
        <span className="font-semibold">{title}:</span> <span className="text-soft">{empty}</span>
      </p>
    );
  }
  return (
    <Section title={lines.length > 1 ? `${title} (${lines.length})` : title}>
      <ul className="border border-line bg-surface">
        {lines.map(({ name, text, to }, n) => (
          <li
            key={`${name} ${n}`}
            className="grid min-h-9 grid-cols-[16rem_1fr] items-baseline gap-x-3 border-b border-line px-3 py-1.5 last:border-0"
          >
            <span className="font-semibold">
              {to ? (
                <Link className="underline" to={to}>
                  {name}
                </Link>
              ) : (
                name
              )}
            </span>
            <span className="min-w-0 break-words">{text}</span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
