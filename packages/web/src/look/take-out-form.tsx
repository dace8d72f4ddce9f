import { useMutation, useQuery } from '@tanstack/react-query';
import { routes, type TakeOut } from '@bright-cellar/contract';
import {
  countOf,
  formatBytes,
  photographNameParts,
  photographPatternProblem,
  takeOutChoicesSchema,
  usualTakeOut,
  type TakeOutChoices,
} from '@bright-cellar/core';
import { use, useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice, YesNo } from '../design/choice.js';
import { DaysFields, isBackwards } from '../design/days-fields.js';
import { TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { BytesFrom } from './bytes.js';
import { lookKey } from './queries.js';

/** Not onto a rack: whoever asks gets it. */
const HERE = 'here';
const REMEMBERED = 'bright-cellar.take-out';

/** How it was taken out the last time on this computer. */
function remembered(): TakeOutChoices {
  try {
    return takeOutChoicesSchema.parse(JSON.parse(localStorage.getItem(REMEMBERED) ?? ''));
  } catch {
    return usualTakeOut;
  }
}

function remember(choices: TakeOutChoices): void {
  try {
    localStorage.setItem(REMEMBERED, JSON.stringify(choices));
  } catch {
    // Where a browser keeps nothing, it is chosen again.
  }
}

/** Takes what is in hand out, as one package: how it is written, whether it is sealed, and what became of it. */
export function TakeOutForm({ id, onClose }: { id: string; onClose: () => void }) {
  const { fetchPackage, save } = use(BytesFrom);
  const [choices, setChoices] = useState(remembered);
  const [isSealed, setSealed] = useState(false);
  const [password, setPassword] = useState('');
  const [takeOut, setTakeOut] = useState<string | null>(null);
  const [where, setWhere] = useState(HERE);
  const racks = (useQuery({ ...queries.racks(), enabled: save === null }).data ?? []).filter(
    ({ present, mounted }) => present && mounted !== null,
  );
  const set = (some: Partial<TakeOutChoices>) => setChoices({ ...choices, ...some });
  const wrong = photographPatternProblem(choices.pattern);
  const prepare = useMutation({
    mutationFn: (onlyFailed: boolean) =>
      call(routes.takeOut, {
        params: { id },
        body: { choices, password: isSealed ? password : null, onlyFailed },
      }),
    onSuccess: async ({ id: prepared }) => {
      // Of which days is asked anew each time.
      remember({ ...choices, since: null, until: null });
      setTakeOut(prepared);
      if (where === HERE) fetchPackage(id, prepared);
      else
        await call(routes.takeOutToRack, {
          params: { id, takeOut: prepared },
          body: { rackId: where },
        });
    },
  });
  const start = { ...prepare, mutate: () => prepare.mutate(false) };
  return (
    <OverlayForm
      permission={routes.takeOut.access}
      title="Take out what is in hand"
      description={
        save
          ? 'It is saved as one package, in open formats.'
          : 'It goes to this browser as one package, or onto a rack or a stick as files, in open formats. It is on record that something was taken out, how much, and by whom.'
      }
      action={takeOut === null ? 'Take it out' : 'Take it out again'}
      ready={wrong === null && !isBackwards(choices) && (!isSealed || password.length >= 8)}
      work={start}
      onClose={onClose}
    >
      {takeOut !== null && (
        <HowItWent id={id} takeOut={takeOut} onAgain={() => prepare.mutate(true)} />
      )}
      {!save && (
        <Choice
          label="Where to"
          value={where}
          options={{
            [HERE]: 'this computer, as one package',
            ...Object.fromEntries(
              racks.map((rack) => [rack.id, `a new folder on ${rack.name}, as files`]),
            ),
          }}
          onChange={setWhere}
        />
      )}
      <div className="grid grid-cols-2 gap-3">
        <Choice
          label="Conversations"
          value={choices.conversations}
          options={{
            html: 'Pages to read',
            // Where this page is all there is, the browser prints those.
            ...(save ? {} : { pdf: 'Pages to print (PDF)' }),
            csv: 'Lines for a spreadsheet (CSV)',
            jsonl: 'JSON Lines',
            xml: 'XML',
          }}
          onChange={(conversations) => set({ conversations })}
        />
        <Choice
          label="Contacts"
          value={choices.contacts}
          options={{
            'vcard-4': 'vCard 4.0',
            'vcard-3': 'vCard 3.0, for older programs',
            csv: 'Lines for a spreadsheet (CSV)',
          }}
          onChange={(contacts) => set({ contacts })}
        />
        <Choice
          label="Notes"
          value={choices.notes}
          options={{ markdown: 'A Markdown file each', html: 'One page to read' }}
          onChange={(notes) => set({ notes })}
        />
        <Choice
          label="Times by the clock of"
          value={choices.times}
          options={{ shop: save ? 'this computer' : 'the shop', utc: 'UTC' }}
          onChange={(times) => set({ times })}
        />
        <Choice
          label="Folders of photographs"
          value={choices.folders}
          options={{ month: 'by month', album: 'by album', one: 'all in one' }}
          onChange={(folders) => set({ folders })}
        />
        <TextField
          label="Photographs are called"
          hint={`Of ${Object.keys(photographNameParts)
            .map((part) => `{${part}}`)
            .join(' ')}`}
          {...(wrong ? { error: wrong } : {})}
          value={choices.pattern}
          onChange={({ target }) => set({ pattern: target.value })}
        />
      </div>
      <div className="grid grid-cols-3 gap-3">
        <Choice
          label="What came with it"
          value={choices.withMedia}
          options={{ all: 'all of it', 'without-videos': 'all but videos', none: 'nothing of it' }}
          onChange={(withMedia) => set({ withMedia })}
        />
        <DaysFields first="Said or called from" days={choices} onChange={set} />
      </div>
      <YesNo
        label="Seal the package with a password (age)"
        checked={isSealed}
        onChange={setSealed}
      />
      {isSealed ? (
        <TextField
          label="Password of the package"
          hint="Eight characters at least. Whoever opens it needs a program that opens age files."
          type="password"
          autoComplete="new-password"
          value={password}
          onChange={({ target }) => setPassword(target.value)}
        />
      ) : (
        <Note>
          What is taken out is no longer encrypted: anybody who has the package can read it.
        </Note>
      )}
    </OverlayForm>
  );
}

const stateWords: Record<TakeOut['state'], string> = {
  waiting: 'The package is about to be fetched.',
  running: 'The package is being fetched.',
  done: 'The package is here.',
  cut: 'The package was not fetched to its end: it is not whole. Nothing in the archive changed; take it out again.',
};
const rackWords: Record<TakeOut['state'], string> = {
  waiting: 'It is about to be written.',
  running: 'It is being written, and read back.',
  done: 'All of it is on the rack, and was read back.',
  cut: 'It was not written to its end: the rack is full or gone, or the look-in is over. Nothing in the archive changed; take it out again.',
};

function HowItWent({ id, takeOut, onAgain }: { id: string; takeOut: string; onAgain: () => void }) {
  const { data, error } = useQuery({
    queryKey: [...lookKey(id), 'take-out', takeOut],
    queryFn: () => call(routes.takeOutState, { params: { id, takeOut } }),
    refetchInterval: ({ state }) =>
      state.data?.state === 'done' || state.data?.state === 'cut' ? false : 500,
    gcTime: 0,
  });
  if (error) return <ProblemNote problem={problemFrom(error)} />;
  if (!data) return null;
  const { state, taken, bytes, failed, wrote } = data;
  return (
    <section aria-label="How it went" className="border border-line px-3 py-2" role="status">
      <p className="font-semibold">{(wrote === null ? stateWords : rackWords)[state]}</p>
      {wrote !== null && <p className="font-mono text-small break-all">{wrote}</p>}
      <p>
        {countOf(taken, 'file')} taken, {formatBytes(bytes)}; {failed.length} failed.
      </p>
      {failed.length > 0 && (
        <>
          <ul className="max-h-32 overflow-y-auto text-small">
            {failed.map(({ path, reason }) => (
              <li key={path}>
                {path}: {reason}
              </li>
            ))}
          </ul>
          <Button onClick={onAgain}>Try those again</Button>
        </>
      )}
    </section>
  );
}
