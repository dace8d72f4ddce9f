import { proxy, wrap } from 'comlink';
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

/** Where somebody wants a file to lie; not asked by every browser (File System Access, WICG). */
interface Place {
  createWritable(): Promise<WritableStream<Uint8Array>>;
}
type Chooser = (asked: { suggestedName: string }) => Promise<Place>;
const chooser = (): Chooser | undefined =>
  (window as { showSaveFilePicker?: Chooser }).showSaveFilePicker?.bind(window);

/** Whatever is larger is written where it is to lie while it is read, where the browser can: it would be put together first. */
const LARGE = 64 * 2 ** 20;

/** Writes it there while it is read. Where it ends early, or nobody chose a place, nothing was written. */
async function write(
  choose: Chooser,
  { name, bytes }: { name: string; bytes: ReadableStream<Uint8Array> },
): Promise<void> {
  try {
    const place = await choose({ suggestedName: name });
    await bytes.pipeTo(await place.createWritable());
  } catch (error) {
    await bytes.cancel().catch(() => undefined);
    // Whoever closed the question wants nothing saved.
    if (!(error instanceof DOMException && error.name === 'AbortError')) throw error;
  }
}

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
  media: (_, item) => (onRead) => told(reading.media(item, proxy(onRead))),
  // How it went is read beside it.
  fetchPackage: (_, takeOut) => {
    const choose = chooser();
    const saved = choose
      ? told(reading.packedStreamed(takeOut)).then((some) => write(choose, some))
      : told(reading.packed(takeOut)).then(save);
    saved.catch(() => undefined);
  },
  save: async (item) => {
    const choose = chooser();
    if (choose && (await told(reading.sizeOf(item))) > LARGE)
      await write(choose, await told(reading.fileStreamed(item)));
    else save(await told(reading.file(item)));
  },
};
