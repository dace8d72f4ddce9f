import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { changeData, makeData } from './make-data.js';
import { Pair, type Measured } from './pair.js';
import { cellarIn, prepare } from './place.js';
import { shell } from './run-process.js';

/**
 * Runs every measure on made data, baseline and program in turns.
 * @param folder scratch, empty; about four times `size` are written below it.
 */
export async function measureEngine(
  folder: string,
  size: number,
  rounds: number,
  say: (text: string) => void,
): Promise<Measured> {
  const place = prepare(folder);
  say('making the data');
  const data = join(folder, 'data');
  const made = makeData(data, size);
  const { cellar, peakBytes } = cellarIn(folder);
  const key = `--password-file ${place.password}`.split(' ');
  const pipeline = `tar c -C data . | zstd -q -1 -T2 | age -r ${place.recipient} -o plain.age; sync`;
  const clear = (...names: string[]) => {
    for (const name of names) rmSync(join(folder, name), { recursive: true, force: true });
  };

  const first = new Pair('first backup, durable', 'tar | zstd -1 -T2 | age; sync', 0.9);
  for (let round = 0; round < rounds; round++) {
    clear('plain.age', 'archive');
    say(`first backup, round ${round + 1}`);
    const theirs = await shell(pipeline, folder);
    first.add(theirs, await cellar('pack', 'data', '--archive', 'archive', ...key));
  }
  const second = new Pair('second backup, 2 % changed', 'the same pipeline again', 0.06);
  for (let round = 0; round < rounds; round++) {
    changeData(data, size, made, round);
    clear('plain.age');
    say(`second backup, round ${round + 1}`);
    const theirs = await shell(pipeline, folder);
    second.add(theirs, await cellar('pack', 'data', '--archive', 'archive', ...key));
  }
  const check = new Pair('check without password', 'sha512sum on two processes', 1.1);
  const half = (from: string) => `sed -n '${from}~2p' manifest-sha512.txt | sha512sum -c --quiet`;
  const both = `cd archive; ${half('1')} & ${half('2')} & wait -n && wait -n`;
  for (let round = 0; round < rounds; round++) {
    say(`check, round ${round + 1}`);
    const theirs = await shell(both, folder);
    check.add(theirs, await cellar('verify', 'archive', '--level', 'bytes'));
  }
  const exporting = new Pair('export of a package, durable', 'tar | age; sync', 1.3);
  for (let round = 0; round < rounds; round++) {
    clear('package.tar.age');
    say(`export, round ${round + 1}`);
    const theirs = await shell(
      `tar c -C data . | age -r ${place.recipient} -o plain-export.age; sync`,
      folder,
    );
    // Only one of the two has to find room.
    clear('plain-export.age');
    const to = ['--to', 'package.tar.age', '--recipient', place.recipient];
    exporting.add(theirs, await cellar('export', 'archive', ...to, ...key));
  }
  clear('package.tar.age');
  const one = new Pair('one photograph out of it', 'age -d | zstd -d | tar x', 0.02);
  const opened = 'age -d -i identity.txt plain.age | zstd -q -d';
  for (let round = 0; round < rounds; round++) {
    clear('theirs', 'ours');
    mkdirSync(join(folder, 'theirs'));
    say(`one photograph, round ${round + 1}`);
    const theirs = await shell(`${opened} | tar x -C theirs ./${made.photograph}`, folder);
    const only = ['--to', 'ours', '--only', made.photograph];
    one.add(theirs, await cellar('unpack', 'archive', ...only, ...key));
    requireSame(join(data, made.photograph), join(folder, 'ours', made.photograph));
  }
  const restore = new Pair('restore of everything, compared', 'age -d | zstd -d | tar x', 1.0);
  for (let round = 0; round < rounds; round++) {
    clear('theirs', 'ours');
    mkdirSync(join(folder, 'theirs'));
    say(`restore, round ${round + 1}`);
    const theirs = await shell(`${opened} | tar x -C theirs`, folder);
    clear('theirs');
    restore.add(theirs, await cellar('unpack', 'archive', '--to', 'ours', ...key));
    await shell('diff -r data ours', folder);
  }
  const measures = [first, second, restore, one, exporting, check].map((pair) => pair.result());
  return { size, rounds, measures, peakBytes };
}

function requireSame(one: string, other: string): void {
  if (!readFileSync(one).equals(readFileSync(other)))
    throw new Error(`${other} differs from ${one}`);
}
