import { useQuery } from '@tanstack/react-query';
import type { ResponseOf, routes } from '@bright-cellar/contract';
import { Check, Eye, OctagonX } from 'lucide-react';
import { Link } from 'react-router';
import { useMay } from '../account/may.js';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Loading } from '../design/loading.js';
import { Mark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { SavesSection } from './saves-section.js';

type Finding = ResponseOf<typeof routes.condition>[number];

const marks = {
  well: { icon: <Check />, tone: 'proven', word: 'Well' },
  look: { icon: <Eye />, tone: 'plain', word: 'Look' },
  wrong: { icon: <OctagonX />, tone: 'danger', word: 'Wrong' },
} as const;

/** How the installation itself is: what does not work, what soon will not, and what to do about each. */
export function ConditionPage() {
  const found = useQuery(queries.condition());
  const may = useMay();
  if (found.error) return <ProblemNote problem={problemFrom(found.error)} />;
  if (!found.data) return <Loading what="Asking everything how it is" />;
  const [worst] = found.data;
  const needs = worst !== undefined && worst.state !== 'well';
  return (
    <Page
      title="Condition"
      now={
        needs
          ? `${worst.about}: ${worst.next}`
          : 'Nothing to do: everything answers and is as it should be.'
      }
      calm={worst?.state !== 'wrong'}
    >
      <Section
        title="What was asked, and what it said"
        aside={
          may('house-rules') && (
            <span className="flex gap-4">
              <Link className="underline" to="/first-steps">
                First steps
              </Link>
              <Link className="underline" to="/network">
                Other computers and phones
              </Link>
            </span>
          )
        }
      >
        <ul className="border border-line bg-surface" aria-label="Condition">
          {found.data.map((finding) => (
            <Line key={finding.about} {...finding} />
          ))}
        </ul>
      </Section>
      <SavesSection />
    </Page>
  );
}

function Line({ about, state, what, next }: Finding) {
  const { icon, tone, word } = marks[state];
  return (
    <li className="grid min-h-9 grid-cols-[6rem_14rem_1fr] items-baseline gap-x-3 border-b border-line px-3 py-1.5 last:border-0">
      <span>
        <Mark icon={icon} tone={tone}>
          {word}
        </Mark>
      </span>
      <span className="font-semibold">{about}</span>
      <span>
        {what}
        {next !== '' && <span className="block font-semibold">{next}</span>}
      </span>
    </li>
  );
}
