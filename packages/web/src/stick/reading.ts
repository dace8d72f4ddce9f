import { wrap } from 'comlink';
import type { ApiProblem } from '@bright-cellar/contract';
import { ApiFailure, answerHere } from '../api/call.js';
import { download, type Bytes } from '../look/bytes.js';
import type { Opened, Reading } from './reading.worker.js';
import ReadingWorker from './reading.worker.ts?worker&inline';

/** What is read in the page of a stick goes by this instead of the number of a look-in. */
export const STICK_LOOK = '00000000-0000-4000-8000-000000000000';
/** An address of what was saved is good until the browser has begun to save it. */
const SAVED_MS = 60_000;

const reading = wrap<Reading>(new ReadingWorker());

/** @throws ApiFailure */
async function told<T>(saying: Promise<{ told: T } | { problem: ApiProblem }>): Promise<T> {
  const said = await saying;
  if ('problem' in said) throw new ApiFailure(said.problem);
  return said.told;
}

/** Opens what somebody chose. @param files of the folder, as the browser gives them @throws ApiFailure */
export const openStick = (files: readonly File[], password: string): Promise<Opened> =>
  told(reading.open(new Map(files.map((file) => [file.webkitRelativePath, file])), password));

function save({ name, blob }: { name: string; blob: Blob }): void {
  const address = URL.createObjectURL(blob);
  download(address, name);
  setTimeout(() => URL.revokeObjectURL(address), SAVED_MS);
}

/** Everything that a server gives at the counter is given here. */
export function readHere(): void {
  answerHere(({ method, path }, { params, query, body }) =>
    told(reading.answer({ method, path, params, query, body })),
  );
}

export const fromStick: Bytes = {
  picture: (_, what, pixels) => () => told(reading.picture(what, pixels)),
  media: (_, item) => () => told(reading.media(item)),
  fetchPackage: (_, takeOut) => void told(reading.packed(takeOut)).then(save, () => undefined),
  save: (item) => told(reading.file(item)).then(save),
};
