import { useQuery } from '@tanstack/react-query';
import type { PersonRow } from '@bright-cellar/contract';
import { countOf } from '@bright-cellar/core';
import { Check, Circle, CircleDot } from 'lucide-react';
import { useMay } from '../account/may.js';
import { queries } from '../api/queries.js';
import { ButtonLink } from '../design/button.js';
import { Loading } from '../design/loading.js';
import { Mark } from '../design/mark.js';
import { Page, Section } from '../design/page.js';

interface Step {
  name: string;
  /** Where it is done, and what the way there is called. */
  to: string;
  go: string;
  isDone: boolean;
  /** Without it the shop does not work, or loses something. */
  isNeeded: boolean;
  /** How it is now; or what to do and what for. */
  says: string;
}

/** What makes a shop of a new installation, each with how it is and where it is decided. */
export function FirstStepsPage() {
  const steps = useSteps();
  if (!steps) return <Loading what="Looking at what is there" />;
  const next = steps.find(({ isNeeded, isDone }) => isNeeded && !isDone);
  return (
    <Page
      title="First steps"
      now={next?.says ?? 'What a shop needs is there. The rest is as the shop wants it.'}
      calm={next === undefined}
    >
      <Section title="In this order, or in any other">
        <ol className="border border-line bg-surface" aria-label="First steps">
          {steps.map((step) => (
            <Line key={step.name} {...step} isNext={step === next} />
          ))}
        </ol>
      </Section>
    </Page>
  );
}

function Line({ name, to, go, isDone, isNeeded, says, isNext }: Step & { isNext: boolean }) {
  return (
    <li
      aria-label={name}
      className="grid min-h-11 grid-cols-[8rem_13rem_1fr_auto] items-center gap-x-3 border-b border-line px-3 py-1.5 last:border-0"
    >
      <span>
        <Mark
          icon={isDone ? <Check /> : isNeeded ? <CircleDot /> : <Circle />}
          tone={isDone ? 'proven' : isNeeded ? 'plain' : 'soft'}
        >
          {isDone ? 'Done' : isNeeded ? 'Needed' : 'If wanted'}
        </Mark>
      </span>
      <span className="font-semibold">{name}</span>
      <span>{says}</span>
      <ButtonLink to={to} look={isNext ? 'main' : 'plain'}>
        {go}
      </ButtonLink>
    </li>
  );
}

const peopleStep = (people: readonly PersonRow[]): Step => ({
  ...{ name: 'People', to: '/people', go: 'People', isNeeded: false },
  isDone: people.filter(({ leftAt }) => leftAt === null).length > 1,
  says: 'Whoever works here signs in under their own name. A second keeper lets somebody in when the first cannot.',
});

/** Null until all of it is known. */
function useSteps(): Step[] | null {
  const racks = useQuery(queries.racks()).data;
  const saves = useQuery(queries.saves()).data;
  const bench = useQuery(queries.bench()).data;
  const settings = useQuery(queries.settings()).data;
  const logo = useQuery(queries.logo()).data;
  const network = useQuery(queries.network()).data;
  const mayPeople = useMay()('people');
  const people = useQuery({ ...queries.people(), enabled: mayPeople }).data;
  const escrow = useQuery(queries.escrow()).data;
  if (!racks || !saves || !bench || !settings || !logo || !network || !escrow) {
    return null;
  }
  const { copies } = settings.care;
  const rules = { to: '/settings', go: 'House rules' };
  return [
    {
      ...{ name: 'Racks', to: '/racks', go: 'Racks', isNeeded: true, isDone: racks.length > 0 },
      says:
        racks.length === 0
          ? 'Add the first rack: a place that backups go to.'
          : `${countOf(racks.length, 'rack')}. A second one, elsewhere, is what saves an archive when a drive dies.`,
    },
    {
      ...{ name: 'Recovery key', to: '/condition', go: 'Condition', isNeeded: true },
      isDone: saves.key !== null,
      says: saves.key
        ? 'The catalogue is saved onto the racks every night.'
        : 'Make the recovery key, and keep it outside the shop: with it the catalogue is saved every night and brought back.',
    },
    {
      ...{ name: 'Devices', to: '/', go: 'Counter', isNeeded: true, isDone: bench.connected },
      says: !bench.connected
        ? 'The bench does not answer: look at Condition.'
        : bench.storage
          ? `The bench has ${countOf(bench.berths.length, 'berth')}, and takes devices whose storage this computer shows as a folder.`
          : `The bench has ${countOf(bench.berths.length, 'berth')}.`,
    },
    {
      ...{ name: 'What the shop decides', ...rules, isNeeded: false, isDone: copies !== '1' },
      says: `Each archive is to lie on ${countOf(Number(copies), 'rack')}; how often it is checked, how proofs age and when names are let go stands there too.`,
    },
    {
      ...{ name: 'Logo', ...rules, isNeeded: false, isDone: logo.png !== null },
      says: logo.png ? 'It stands on the papers.' : 'A picture for slips, sheets and certificates.',
    },
    {
      ...{ name: 'Other computers', to: '/network', go: 'Network', isNeeded: false },
      isDone: network.rules.mode !== 'alone',
      says:
        network.rules.mode === 'alone'
          ? 'Only this computer reaches the program; others, and customers’ own phones, do over TLS once it is set up.'
          : `It is found at ${network.addresses.join(', ')}.`,
    },
    ...(mayPeople && people ? [peopleStep(people)] : []),
    {
      ...{ name: 'More than a password', ...rules, isNeeded: false },
      isDone: settings.signIn.secondFactor !== 'may',
      says: 'Who must give a code or a passkey beside it.',
    },
    {
      ...{ name: 'Escrow', ...rules, isNeeded: false, isDone: escrow.people.length > 0 },
      says:
        escrow.people.length > 0
          ? 'Two people together open what is sealed to it.'
          : 'Two people who together open an archive whose password is lost, where its customer agreed.',
    },
  ];
}
