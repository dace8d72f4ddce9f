import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { AUTHORITY_PATH, routes, type NetworkView } from '@bright-cellar/contract';
import { networkModes, type NetworkMode, type NetworkRules } from '@bright-cellar/core';
import { useState } from 'react';
import { useMay, useOnlyWords } from '../account/may.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, buttonShape } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { day } from '../design/dates.js';
import { Lines, TextBlock, TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { TrustSection } from './trust-section.js';

/** How other computers of the shop and customers’ own phones reach the program. */
export function NetworkPage() {
  const may = useMay()('house-rules');
  const onlyWords = useOnlyWords()('house-rules');
  const network = useQuery({ ...queries.network(), enabled: may });
  if (!may) {
    return (
      <Page title="Other computers and phones" now={onlyWords} calm>
        <p>Work at this computer goes on as it is.</p>
      </Page>
    );
  }
  if (network.error) return <ProblemNote problem={problemFrom(network.error)} />;
  if (!network.data) return <Loading what="Asking how it is reached" />;
  const { rules, addresses, deskAddress, certificate } = network.data;
  return (
    <Page
      title="Other computers and phones"
      now={
        rules.mode === 'alone'
          ? 'Only this computer reaches the program. Say below how others may.'
          : `Others open ${addresses[0] ?? ''}.`
      }
      calm
    >
      <RulesForm view={network.data} />
      {rules.mode !== 'alone' && (
        <Section title="Where it is found">
          <dl className="grid max-w-3xl grid-cols-[14rem_1fr] gap-x-4 gap-y-1">
            <dt>Other computers</dt>
            <dd className="font-mono break-all">{addresses.join(' ')}</dd>
            <dt>Customers’ own phones</dt>
            <dd className="font-mono break-all">{deskAddress}</dd>
            {certificate && (
              <>
                <dt>Certificate good until</dt>
                <dd>{day(certificate.until)}</dd>
              </>
            )}
          </dl>
          {certificate && certificate.uncovered.length > 0 && (
            <Note>
              The certificate is not for {certificate.uncovered.join(', ')}: browsers refuse it
              there.
            </Note>
          )}
        </Section>
      )}
      {network.data.authority && (
        <>
          <TrustSection fingerprint={network.data.authority.fingerprint} />
          <div>
            <a className={buttonShape('plain')} href={AUTHORITY_PATH} download>
              Fetch the authority’s certificate
            </a>
          </div>
        </>
      )}
    </Page>
  );
}

/** What is typed of each kind is kept while another is looked at. */
interface Typed {
  mode: NetworkMode;
  hosts: string;
  address: string;
  deskAddress: string;
}

function rulesOf({ mode, hosts, address, deskAddress }: Typed): NetworkRules {
  switch (mode) {
    case 'alone':
      return { mode };
    case 'proxy':
      return { mode, address: address.trim(), deskAddress: deskAddress.trim() };
    default:
      return { mode, hosts: hosts.split(/[\s,]+/).filter((host) => host !== '') };
  }
}

function RulesForm({ view: { rules, suggested, localPorts } }: { view: NetworkView }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState<Typed>({
    mode: rules.mode,
    hosts: ('hosts' in rules ? rules.hosts : suggested).join('\n'),
    address: rules.mode === 'proxy' ? rules.address : '',
    deskAddress: rules.mode === 'proxy' ? rules.deskAddress : '',
  });
  const set = (some: Partial<Typed>) => setTyped({ ...typed, ...some });
  const change = useMutation({
    mutationFn: () => call(routes.changeNetwork, { body: rulesOf(typed) }),
    onSuccess: (now) => client.setQueryData(queries.network().queryKey, now),
  });
  const { mode } = typed;
  return (
    <form
      noValidate
      className="flex max-w-2xl flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate();
      }}
    >
      <Choice
        label="Who reaches the program"
        value={mode}
        options={networkModes}
        onChange={(wanted) => set({ mode: wanted })}
      />
      {(mode === 'own' || mode === 'given') && (
        <Lines
          label="Names and addresses under which this computer is found"
          hint={`The first stands in the code that customers’ phones read. This computer has: ${suggested.join(', ')}.`}
          value={typed.hosts}
          onChange={({ target }) => set({ hosts: target.value })}
        />
      )}
      {mode === 'proxy' && (
        <>
          <TextField
            label="Address of the application"
            hint={`The proxy sends it to http://127.0.0.1:${localPorts.shop}, with its own Host and X-Forwarded-Proto.`}
            placeholder="https://cellar.example"
            value={typed.address}
            onChange={({ target }) => set({ address: target.value })}
          />
          <TextField
            label="Address of the customers’ page"
            hint={`To http://127.0.0.1:${localPorts.desk}. Another name than the application’s.`}
            placeholder="https://code.example"
            value={typed.deskAddress}
            onChange={({ target }) => set({ deskAddress: target.value })}
          />
        </>
      )}
      {mode === 'given' && <GivenCertificate />}
      {change.error && <ProblemNote problem={problemFrom(change.error)} />}
      {change.isSuccess && <Note tone="proven">It is reached so from now on.</Note>}
      {mode === 'alone' && (
        <p className="text-soft">
          Other computers of the shop cannot open it, and customers type a password on this
          computer’s screen, not on their own phones.
        </p>
      )}
      <div>
        <Button type="submit" look="main" busy={change.isPending}>
          Be reached so
        </Button>
      </div>
    </form>
  );
}

/** A certificate and its key, as who issued them gives them. */
function GivenCertificate() {
  const client = useQueryClient();
  const [cert, setCert] = useState('');
  const [key, setKey] = useState('');
  const give = useMutation({
    mutationFn: () => call(routes.giveCertificate, { body: { cert, key } }),
    onSuccess: (now) => {
      client.setQueryData(queries.network().queryKey, now);
      setCert('');
      setKey('');
    },
  });
  return (
    <div className="flex flex-col gap-3 border-l-4 border-line pl-4">
      <TextBlock
        label="Certificate, with those that follow it (PEM)"
        value={cert}
        spellCheck={false}
        onChange={({ target }) => setCert(target.value)}
      />
      <TextBlock
        label="Its key, without a password (PEM)"
        value={key}
        autoComplete="off"
        spellCheck={false}
        onChange={({ target }) => setKey(target.value)}
      />
      {give.error && <ProblemNote problem={problemFrom(give.error)} />}
      {give.isSuccess && <Note tone="proven">Kept. The key is shown to nobody again.</Note>}
      <div>
        <Button
          busy={give.isPending}
          disabled={cert.trim() === '' || key.trim() === ''}
          onClick={() => give.mutate()}
        >
          Keep this certificate
        </Button>
      </div>
    </div>
  );
}
