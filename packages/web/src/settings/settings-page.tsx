import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type ShopSettings } from '@bright-cellar/contract';
import {
  copySpeedNames,
  forgetAgeNames,
  lockTimeNames,
  lookIdleNames,
  nameAfter,
  nameParts,
  patternProblem,
  placesProblem,
  proofAgeNames,
  typedPlaces,
  secondFactorNames,
  updatePolicyNames,
  type NamePart,
} from '@bright-cellar/core';
import { useState } from 'react';
import { useMay, useOnlyWords } from '../account/may.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice, YesNo } from '../design/choice.js';
import { Lines, TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { AdapterSection } from './adapter-section.js';
import { BenchFields } from './bench-fields.js';
import { CareFields } from './care-fields.js';
import { EscrowSection } from './escrow-section.js';
import { LogoSection } from './logo-section.js';

/** What the shop decides once, for everybody. */
export function SettingsPage() {
  const settings = useQuery(queries.settings()).data;
  if (!settings) return <Loading what="Fetching the settings" />;
  return (
    <Page
      title="House rules"
      now="Change what the whole shop does alike; it holds for everybody at once."
      calm
    >
      <SettingsForm settings={settings} />
      <AdapterSection />
      <LogoSection />
      <EscrowSection />
    </Page>
  );
}

const example: Record<NamePart, string> = {
  ticket: '26110007',
  date: '2026-11-25',
  time: '1405',
  family: 'vireo',
  model: 'Arc 7',
  device: 'Tamsin’s phone',
  serial: '4Q81',
  customer: 'Tamsin Orchardgate',
};

function SettingsForm({ settings }: { settings: ShopSettings }) {
  const client = useQueryClient();
  const [wanted, setWanted] = useState(settings);
  const may = useMay()('house-rules');
  const onlyWords = useOnlyWords()('house-rules');
  const problem = patternProblem(wanted.namePattern);
  const isSound =
    problem === null &&
    placesProblem(wanted.bench.places) === null &&
    wanted.shop.name.trim() !== '';
  const save = useMutation({
    mutationFn: () => {
      const bench = { ...wanted.bench, places: typedPlaces(wanted.bench.places) };
      return call(routes.saveSettings, { body: { ...wanted, bench } });
    },
    onSuccess: async (saved) => {
      client.setQueryData(queries.settings().queryKey, saved);
      // The shop’s name stands on every screen.
      await client.invalidateQueries({ queryKey: queries.session().queryKey });
    },
  });
  return (
    <form
      noValidate
      className="flex max-w-2xl flex-col gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        if (isSound) save.mutate();
      }}
    >
      <Section title="The shop">
        <TextField
          label="What it is called"
          value={wanted.shop.name}
          maxLength={80}
          onChange={({ target }) =>
            setWanted({ ...wanted, shop: { ...wanted.shop, name: target.value } })
          }
        />
        <Lines
          label="Where it is, and how it is reached"
          hint="Stands on its papers."
          value={wanted.shop.address}
          maxLength={300}
          onChange={({ target }) =>
            setWanted({ ...wanted, shop: { ...wanted.shop, address: target.value } })
          }
        />
      </Section>
      <Section title="How one signs in, and looks in">
        <Choice
          label="Who gives more than a password"
          hint="A code from their own device, or a passkey. Each sets it up under their own name, below left."
          value={wanted.signIn.secondFactor}
          options={secondFactorNames}
          onChange={(secondFactor) =>
            setWanted({ ...wanted, signIn: { ...wanted.signIn, secondFactor } })
          }
        />
        <Choice
          label="When a screen locks by itself"
          hint="What was typed stays. Work on devices goes on."
          value={wanted.signIn.lockMinutes}
          options={lockTimeNames}
          onChange={(lockMinutes) =>
            setWanted({ ...wanted, signIn: { ...wanted.signIn, lockMinutes } })
          }
        />
        <Choice
          label="When a backup that is looked into closes by itself"
          hint="Where nobody reads on. Its key is forgotten then."
          value={wanted.looking.idleMinutes}
          options={lookIdleNames}
          onChange={(idleMinutes) => setWanted({ ...wanted, looking: { idleMinutes } })}
        />
      </Section>
      <Section title="The bench">
        <BenchFields rules={wanted.bench} onChange={(bench) => setWanted({ ...wanted, bench })} />
      </Section>
      <Section title="Names of archives">
        <TextField
          label="Pattern"
          mono
          value={wanted.namePattern}
          error={problem ?? undefined}
          hint={
            <>
              For example{' '}
              <span className="font-mono">{nameAfter(wanted.namePattern, example)}</span>
            </>
          }
          onChange={(event) => setWanted({ ...wanted, namePattern: event.target.value })}
        />
        <dl className="grid grid-cols-[auto_1fr] gap-x-4 text-small">
          {Object.entries(nameParts).map(([part, means]) => (
            <div key={part} className="contents">
              <dt className="font-mono">{`{${part}}`}</dt>
              <dd className="text-soft">{means}</dd>
            </div>
          ))}
        </dl>
      </Section>
      <Section title="Updates of a device’s OS">
        <Choice
          label="When it may be updated here"
          hint="Nothing is ever updated by itself."
          value={wanted.updatePolicy}
          options={updatePolicyNames}
          onChange={(updatePolicy) => setWanted({ ...wanted, updatePolicy })}
        />
      </Section>
      <Section title="Before a device is erased">
        <Choice
          label="How old its proof may be"
          hint="The copy itself is looked at once more in any case."
          value={wanted.proofAge}
          options={proofAgeNames}
          onChange={(proofAge) => setWanted({ ...wanted, proofAge })}
        />
      </Section>
      <Section title="How archives are kept">
        <CareFields rules={wanted.care} onChange={(care) => setWanted({ ...wanted, care })} />
        <Choice
          label="How fast copies are made"
          hint="They stand still in any case while a device is read or written."
          value={wanted.copySpeed}
          options={copySpeedNames}
          onChange={(copySpeed) => setWanted({ ...wanted, copySpeed })}
        />
      </Section>
      <Section title="When names of customers are let go">
        <YesNo
          label="When everything of theirs is destroyed"
          checked={wanted.disposal.forgetsNames}
          onChange={(forgetsNames) =>
            setWanted({ ...wanted, disposal: { ...wanted.disposal, forgetsNames } })
          }
        />
        <Choice
          label="Of whom nothing is kept"
          hint="Name, number, address, notes, what they call their devices. Tickets, certificates and the record stay, of nobody in particular."
          value={wanted.disposal.forgetAfter}
          options={forgetAgeNames}
          onChange={(forgetAfter) =>
            setWanted({ ...wanted, disposal: { ...wanted.disposal, forgetAfter } })
          }
        />
      </Section>
      {save.error && <ProblemNote problem={problemFrom(save.error)} />}
      {save.isSuccess && <Note tone="proven">Saved.</Note>}
      <div>
        <Button type="submit" look="main" disabled={!may || !isSound} busy={save.isPending}>
          Save the house rules
        </Button>
        {!may && <p className="pt-2 text-soft">{onlyWords}</p>}
      </div>
    </form>
  );
}
