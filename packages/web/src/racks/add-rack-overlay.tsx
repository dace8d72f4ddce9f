import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type RackPlace, type RackRules, type TriedRack } from '@bright-cellar/contract';
import {
  formatBytes,
  formatRate,
  goodFor,
  rackKindNames,
  usualReserve,
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
import { noBox, noObjects, placeOf } from './site.js';
import { BoxFields, ObjectsFields } from './site-fields.js';

const elsewhere = {
  folder: 'Another folder',
  sftp: 'A box on the network',
  objects: 'Object storage',
} as const;
/** A drive that was found, by its path; or another place, by its kind. */
type Chosen = { path: string } | keyof typeof elsewhere;

/** What a rack at such a place mostly is. */
const usualKind = (chosen: Chosen): RackKind => {
  if (typeof chosen === 'object') return 'drive';
  return ({ folder: 'fixed', sftp: 'box', objects: 'objects' } as const)[chosen];
};
const folderKinds = {
  fixed: rackKindNames.fixed,
  drive: rackKindNames.drive,
  share: rackKindNames.share,
};

/** Makes a rack of a place: where it is, what it can do, what it is called. */
export function AddRackOverlay({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const places = useQuery(queries.rackPlaces()).data ?? [];
  const [given, setChosen] = useState<Chosen | null>(null);
  const [typed, setTyped] = useState('');
  const [box, setBox] = useState(noBox);
  const [objects, setObjects] = useState(noObjects);
  const [kind, setKind] = useState<keyof typeof folderKinds | null>(null);
  const [rules, setRules] = useState<RackRules>({
    ...{ name: '', note: '', reserve: 0, offPremises: false },
  });
  const [proposed, setProposed] = useState(0);
  const chosen = given ?? places[0] ?? 'folder';
  const place = placeOf(
    chosen === 'sftp'
      ? { kind: 'sftp', ...box }
      : chosen === 'objects'
        ? { kind: 'objects', ...objects }
        : { kind: 'folder', path: chosen === 'folder' ? typed.trim() : chosen.path },
  );
  const isFolder = place?.site.kind === 'folder';
  const asKind = isFolder ? (kind ?? usualKind(chosen)) : usualKind(chosen);
  const tried = useMutation({
    mutationFn: (body: RackPlaceGiven) => call(routes.tryRack, { body }),
    onSuccess: ({ capacity }) => {
      const reserve = usualReserve(capacity);
      setProposed(reserve);
      // What somebody typed stays.
      setRules((now) => (now.reserve === proposed ? { ...now, reserve } : now));
    },
  });
  const isTried = tried.data !== undefined && isSame(tried.variables, place);
  const add = useMutation({
    mutationFn: async () => {
      // Only what was tried is added.
      if (!tried.variables) throw new Error('nothing was tried');
      return call(routes.addRack, { body: { ...rules, ...tried.variables, kind: asKind } });
    },
    onSuccess: async (rack) => {
      onClose();
      await client.invalidateQueries({ queryKey: queries.racks().queryKey });
      await navigate(`/racks/${rack.id}`);
    },
  });
  return (
    <OverlayForm
      permission={routes.addRack.access}
      title="Add a rack"
      description="A folder of this computer that backups go to: of a disk, of a drive that comes and goes, of a mounted share. Or a place on the network, for copies."
      action="Add it"
      ready={isTried && goodFor(tried.data).fit && rules.name.trim() !== ''}
      work={add}
      onClose={onClose}
    >
      <Places places={places} chosen={chosen} onChoose={setChosen} />
      {chosen === 'folder' && (
        <TextField
          label="Path of the folder"
          mono
          value={typed}
          placeholder="/srv/archives"
          onChange={(event) => setTyped(event.target.value)}
        />
      )}
      {chosen === 'sftp' && <BoxFields box={box} onChange={setBox} />}
      {chosen === 'objects' && <ObjectsFields objects={objects} onChange={setObjects} />}
      <div>
        <Button
          look={isTried ? 'plain' : 'main'}
          disabled={place === null}
          busy={tried.isPending}
          onClick={() => place && tried.mutate(place)}
        >
          {isTried ? 'Try it again' : 'Try it'}
        </Button>
      </div>
      {tried.error && isSame(tried.variables, place) && (
        <ProblemNote problem={problemFrom(tried.error)} />
      )}
      {isTried && (
        <>
          <Outcome tried={tried.data} isNear={isFolder} />
          {isFolder && asKind in folderKinds && (
            <Choice
              label="What it is"
              value={asKind as keyof typeof folderKinds}
              options={folderKinds}
              onChange={setKind}
            />
          )}
          <RackFields rules={rules} onChange={setRules} />
        </>
      )}
    </OverlayForm>
  );
}

type RackPlaceGiven = NonNullable<ReturnType<typeof placeOf>>;
/** What was tried is what stands there now. */
const isSame = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other);

const noDrive = 'No new drive is connected. Plug one in, or say where the folder is.';
const elsewhereWords = {
  folder: 'Say where it is.',
  sftp: 'Over SFTP: a machine with disks of its own, here or elsewhere.',
  objects: 'What speaks S3: of a provider, or a machine of your own.',
};

function Places({
  places,
  chosen,
  onChoose,
}: {
  places: readonly RackPlace[];
  chosen: Chosen;
  onChoose: (chosen: Chosen) => void;
}) {
  const value = typeof chosen === 'object' ? chosen.path : chosen;
  const item = (own: string) =>
    clsx(
      'flex flex-col items-start px-3 py-2 text-left',
      own === value ? 'border-2 border-ink px-[11px] py-[7px]' : 'border border-line',
    );
  return (
    <RadioGroup.Root
      aria-label="Where it is"
      value={value}
      onValueChange={(next) =>
        onChoose(next in elsewhere ? (next as keyof typeof elsewhere) : { path: next })
      }
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
      {(Object.entries(elsewhere) as [keyof typeof elsewhere, string][]).map(([kind, name]) => (
        <RadioGroup.Item key={kind} value={kind} className={item(kind)}>
          <span className="font-semibold">{name}</span>
          <span className="text-small text-soft">
            {kind === 'folder' && places.length === 0 ? noDrive : elsewhereWords[kind]}
          </span>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}

function Outcome({ tried, isNear }: { tried: TriedRack; isNear: boolean }) {
  const { fit, sentences } = goodFor(tried, isNear);
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
