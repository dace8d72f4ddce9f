import { useMutation } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { call, problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { TextBlock, TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { Digest } from '../design/serial.js';
import type { Box, Objects } from './site.js';

const logins = { password: 'A password', key: 'A private key' } as const;
const GB = 1e9;

/** Where a box is, who signs in there, and whether it is the right one. */
export function BoxFields({ box, onChange }: { box: Box; onChange: (box: Box) => void }) {
  const asked = useMutation({
    mutationFn: () => call(routes.hostKey, { body: { host: box.host, port: box.port } }),
  });
  const change = (some: Partial<Box>) => onChange({ ...box, ...some });
  const elsewhere = (some: Partial<Box>) => {
    asked.reset();
    change({ ...some, hostKey: '' });
  };
  const shown = asked.data?.hostKey;
  return (
    <>
      <div className="grid grid-cols-[minmax(0,1fr)_6rem] gap-3">
        <TextField
          label="Name or address of the box"
          mono
          value={box.host}
          placeholder="box.shop.lan"
          onChange={(event) => elsewhere({ host: event.target.value.trim() })}
        />
        <TextField
          label="Port"
          type="number"
          min={1}
          max={65_535}
          value={String(box.port)}
          onChange={(event) => elsewhere({ port: Number(event.target.value) || 0 })}
        />
      </div>
      <TextField
        label="Folder there"
        mono
        value={box.path}
        placeholder="/volume/archives"
        onChange={(event) => change({ path: event.target.value })}
      />
      <TextField
        label="Signs in as"
        autoComplete="off"
        value={box.user}
        onChange={(event) => change({ user: event.target.value })}
      />
      <Choice
        label="With"
        value={box.login}
        options={logins}
        onChange={(login) => change({ login, secret: '' })}
      />
      {box.login === 'password' ? (
        <TextField
          label="Password"
          type="password"
          autoComplete="off"
          hint="Kept sealed on this computer, and never shown again."
          value={box.secret}
          onChange={(event) => change({ secret: event.target.value })}
        />
      ) : (
        <TextBlock
          label="Private key"
          hint="The whole file, as OpenSSH writes it. Kept sealed on this computer, and never shown again."
          value={box.secret}
          onChange={(event) => change({ secret: event.target.value })}
        />
      )}
      {box.hostKey === '' ? (
        <>
          <div>
            <Button
              disabled={box.host === '' || box.port < 1}
              busy={asked.isPending}
              onClick={() => asked.mutate()}
            >
              Ask the box who it is
            </Button>
          </div>
          {asked.error && <ProblemNote problem={problemFrom(asked.error)} />}
          {shown !== undefined && (
            <Note tone="plain">
              <p>It shows this host key. Compare it with what whoever runs the box has on paper.</p>
              <p className="py-2">
                <Digest>{shown}</Digest>
              </p>
              <Button onClick={() => change({ hostKey: shown })}>It is the same</Button>
            </Note>
          )}
        </>
      ) : (
        <p className="text-small text-soft" role="status">
          Its host key was compared. With any other, nobody signs in.
        </p>
      )}
    </>
  );
}

/** Where a bucket is, and what opens it. */
export function ObjectsFields({
  objects,
  onChange,
}: {
  objects: Objects;
  onChange: (objects: Objects) => void;
}) {
  const change = (some: Partial<Objects>) => onChange({ ...objects, ...some });
  return (
    <>
      <TextField
        label="Address of the storage"
        mono
        value={objects.endpoint}
        placeholder="https://storage.shop.lan:9000"
        onChange={(event) => change({ endpoint: event.target.value.trim() })}
      />
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="Bucket"
          mono
          value={objects.bucket}
          onChange={(event) => change({ bucket: event.target.value.trim() })}
        />
        <TextField
          label="Region"
          mono
          value={objects.region}
          onChange={(event) => change({ region: event.target.value.trim() })}
        />
      </div>
      <TextField
        label="Names begin with"
        mono
        value={objects.prefix}
        hint="Empty, or a name that ends with a stroke, where the bucket holds other things too."
        onChange={(event) => change({ prefix: event.target.value })}
      />
      <TextField
        label="How much may lie there, in GB"
        type="number"
        min={1}
        hint="Such storage does not say what room it has."
        value={String(Math.round(objects.capacity / GB))}
        onChange={(event) =>
          change({ capacity: Math.max(0, Number(event.target.value) || 0) * GB })
        }
      />
      <TextField
        label="Name of the key"
        mono
        autoComplete="off"
        value={objects.accessKey}
        onChange={(event) => change({ accessKey: event.target.value })}
      />
      <TextField
        label="Key"
        type="password"
        autoComplete="off"
        hint="Kept sealed on this computer, and never shown again."
        value={objects.secret}
        onChange={(event) => change({ secret: event.target.value })}
      />
    </>
  );
}
