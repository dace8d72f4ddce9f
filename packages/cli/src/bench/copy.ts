import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { changeData, makeData } from './make-data.js';
import { Pair } from './pair.js';
import { cellarIn, prepare } from './place.js';
import { bytesOf, table } from './report.js';
import { shell } from './run-process.js';

/**
 * `npm run bench:copy`: a copy of an archive that was read back, beside `cp`, `sync` and `sha512sum` over the same bytes; and
 * that copy brought up to date, beside its first making.
 */
const MEMORY_AIM = 200e6;
const { values } = parseArgs({
  options: {
    size: { type: 'string', default: '2G' },
    rounds: { type: 'string', default: '3' },
    folder: { type: 'string', default: tmpdir() },
  },
});
const size = bytesOf(values.size);
const rounds = Number(values.rounds);

const folder = mkdtempSync(join(values.folder, 'cellar-copy-'));
try {
  const { password } = prepare(folder);
  const data = join(folder, 'data');
  const made = makeData(data, size);
  const { cellar, peakBytes } = cellarIn(folder);
  const pack = () => cellar('pack', 'data', '--archive', 'archive', '--password-file', password);
  const copy = () => cellar('copy', 'archive', '--to', 'copy');
  const first = new Pair('another copy, read back', 'cp -r; sync; sha512sum -c', 1.2);
  const update = new Pair('brought up to date, 2 % new', 'its first making', 0.1);
  await pack();
  delete peakBytes.pack;
  for (let round = 0; round < rounds; round++) {
    for (const name of ['plain', 'copy']) {
      rmSync(join(folder, name), { recursive: true, force: true });
    }
    const theirs = await shell(
      'cp -r archive plain && sync && cd plain && sha512sum -c --quiet manifest-sha512.txt',
      folder,
    );
    rmSync(join(folder, 'plain'), { recursive: true });
    const whole = await copy();
    first.add(theirs, whole);
    changeData(data, size, made, round);
    await pack();
    update.add(whole, await copy());
  }
  delete peakBytes.pack;
  const measures = [first.result(), update.result()];
  process.stdout.write(table({ size, rounds, measures, peakBytes }, MEMORY_AIM));
} finally {
  rmSync(folder, { recursive: true, force: true });
}
