import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type RackPlace, type RackRules, type TriedRack } from '@bright-cellar/contract';
import {
  formatBytes,
  formatRate,
  goodFor,
  rackKindNames,
  type RackKind,
} from '@bright-cellar/core';
import clsx from 'clsx';
import { RadioGroup } from 'radix-ui';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { Figure } from '../design/figures.js';
import { Note, ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { RackFields } from './rack-fields.js';

/** Another folder than those that were found. */
const ELSEWHERE = '';
const USUAL_RESERVE = 20e9;

/** Makes a rack of a folder: where it is, what it can do, what it is called. */
export function AddRackOverlay({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const places = useQuery(queries.rackPlaces()).data ?? [];
  const [chosen, setChosen] = useState<string | null>(null);
  const [typed, setTyped] = useState('');
  const [kind, setKind] = useState<RackKind | null>(null);
  const [rules, setRules] = useState<RackRules>({
    ...{ name: '', note: '', reserve: USUAL_RESERVE, offPremises: false },
  });
  const place = chosen ?? places[0]?.path ?? ELSEWHERE;
  const path = place === ELSEWHERE ? typed.trim() : place;
  const asKind = kind ?? (place === ELSEWHERE ? 'fixed' : 'drive');
  const tried = useMutation({
    mutationFn: (wanted: string) => call(routes.tryRack, { body: { path: wanted } }),
  });
  const isTried = tried.data !== undefined && tried.variables === path;
  const add = useMutation({
    mutationFn: () => call(routes.addRack, { body: { ...rules, path, kind: asKind } }),
    onSuccess: async (rack) => {
      onClose();
      await client.invalidateQueries({ queryKey: queries.racks().queryKey });
      await navigate(`/racks/${rack.id}`);
    },
  });
  return (
    <OverlayForm
      title="Add a rack"
      description="A folder of this computer that backups may go to: of a disk, of a drive that comes and goes, of a mounted share."
      action="Add it"
      ready={isTried && goodFor(tried.data).fit && rules.name.trim() !== ''}
      work={add}
      onClose={onClose}
    >
      <Places places={places} chosen={place} onChoose={setChosen} />
      {place === ELSEWHERE && (
        <TextField
          label="Path of the folder"
          mono
          value={typed}
          placeholder="/srv/archives"
          onChange={(event) => setTyped(event.target.value)}
        />
      )}
      <div>
        <Button
          look={isTried ? 'plain' : 'main'}
          disabled={path === ''}
          busy={tried.isPending}
          onClick={() => tried.mutate(path)}
        >
          {isTried ? 'Try it again' : 'Try it'}
        </Button>
      </div>
      {tried.error && <ProblemNote problem={problemFrom(tried.error)} />}
      {isTried && (
        <>
          <Outcome tried={tried.data} />
          <Choice label="What it is" value={asKind} options={rackKindNames} onChange={setKind} />
          <RackFields rules={rules} onChange={setRules} />
        </>
      )}
    </OverlayForm>
  );
}

function Places({
  places,
  chosen,
  onChoose,
}: {
  places: readonly RackPlace[];
  chosen: string;
  onChoose: (path: string) => void;
}) {
  const item = (value: string) =>
    clsx(
      'flex flex-col items-start px-3 py-2 text-left',
      value === chosen ? 'border-2 border-ink px-[11px] py-[7px]' : 'border border-line',
    );
  return (
    <RadioGroup.Root
      aria-label="Where it is"
      value={chosen}
      onValueChange={onChoose}
      className="flex flex-col gap-2"
    >
      {places.map(({ path, capacity, free, marked }) => (
        <RadioGroup.Item key={path} value={path} className={item(path)}>
          <span className="font-mono">{path}</span>
          <span className="text-small text-soft">
            {formatBytes(free)} free of {formatBytes(capacity)}
            {marked && `: ${marked} lies there, and is taken up as it is`}
          </span>
        </RadioGroup.Item>
      ))}
      <RadioGroup.Item value={ELSEWHERE} className={item(ELSEWHERE)}>
        <span className="font-semibold">Another folder</span>
        <span className="text-small text-soft">
          {places.length === 0
            ? 'No new drive is connected. Plug one in, or say where the folder is.'
            : 'Say where it is.'}
        </span>
      </RadioGroup.Item>
    </RadioGroup.Root>
  );
}

function Outcome({ tried }: { tried: TriedRack }) {
  const { fit, sentences } = goodFor(tried);
  if (!fit) {
    return (
      <ProblemNote
        problem={{
          what: sentences[0] ?? '',
          safe: 'Nothing of it was left there.',
          next: 'Choose another place.',
        }}
      />
    );
  }
  return (
    <div className="flex flex-col gap-2" role="status">
      <div className="flex flex-wrap gap-x-8 gap-y-2">
        <Figure value={formatRate(tried.writeRate)}>Written</Figure>
        <Figure value={formatRate(tried.readRate)}>Read back</Figure>
        <Figure value={formatBytes(tried.free)} of={`of ${formatBytes(tried.capacity)}`}>
          Free
        </Figure>
      </div>
      <Note tone="proven">
        {sentences.map((sentence) => (
          <p key={sentence}>{sentence}</p>
        ))}
      </Note>
    </div>
  );
}
