import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { archiveIn, OpenArchive, verifyOpen, withPassword } from '@bright-cellar/archive';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { CELLAR, LIGHT, Scratch } from './cellar.js';

let scratch: Scratch;
beforeAll(() => {
  scratch = new Scratch();
});
afterAll(() => scratch.remove());

/** A tree with a long file, some photographs and many small files. */
function makeSource(name: string, megabytes: number): string {
  const source = scratch.path(name);
  for (const folder of ['videos', 'photographs', 'notes'])
    mkdirSync(`${source}/${folder}`, { recursive: true });
  writeFileSync(`${source}/videos/long.mp4`, randomBytes(megabytes * 500_000));
  for (let n = 0; n < megabytes / 4; n++) {
    writeFileSync(`${source}/photographs/${n}.jpg`, randomBytes(2_000_000));
  }
  for (let n = 0; n < 300; n++) writeFileSync(`${source}/notes/${n}.txt`, `note ${n} `.repeat(200));
  return source;
}

/** The same shares each run, so that a failure can be looked for again; spread over all that a command does, which takes as long as it took. */
function* moments(tookMs: number): Generator<number> {
  for (let state = 12345; ;) {
    state = (state * 1103515245 + 12345) % 2147483648;
    yield (0.15 + (state / 2147483648) * 0.85) * tookMs;
  }
}

/** How long a command takes that nobody kills, ms. */
function timeOf(...args: string[]): number {
  const from = performance.now();
  expect(scratch.cellar(...args).status).toBe(0);
  return performance.now() - from;
}

const passesSha512sum = (archive: string) =>
  scratch.shell(`cd '${archive}' && sha512sum -c --quiet manifest-sha512.txt`) === '';

/** Opened and looked at in this process: a command would take longer to start than to look. */
async function isWhole(folder: string): Promise<boolean> {
  const identity = readFileSync(scratch.identity, 'utf8').split('\n')[2] ?? '';
  const archive = await OpenArchive.open(
    archiveIn(folder),
    { kind: 'escrow', identity },
    { threads: 0 },
  );
  try {
    return (await verifyOpen(archive, { level: 'structure', threads: 0 })).whole;
  } finally {
    await archive.close();
  }
}

/** How often each is killed here; `npm run faults` kills it fifty times. */
const KILLS = Number(process.env.ENGINE_KILLS ?? 4);
const KILLS_MS = 600_000 + KILLS * 20_000;

describe('kill -9', () => {
  test(
    'at any moment of a first backup: nothing has the archive’s name, and it goes on to the end',
    async () => {
      const source = makeSource('first', 16);
      const archive = scratch.path('new');
      const into = (to: string) => [
        'pack',
        source,
        '--archive',
        to,
        '--password-file',
        scratch.password,
      ];
      const args = into(archive);
      const times = moments(timeOf(...into(scratch.path('not-killed'))));
      let kills = 0;
      while (kills < KILLS) {
        if (await scratch.killedAfter(times.next().value as number, ...args)) {
          // It came to its end before: it is a first backup only from the beginning.
          rmSync(archive, { recursive: true });
          continue;
        }
        kills += 1;
        if (existsSync(archive)) {
          expect(passesSha512sum(archive)).toBe(true);
          expect(scratch.cellar('verify', archive, '--level', 'bytes').status).toBe(0);
        }
      }
      expect(scratch.cellar(...args).status).toBe(0);
      const checked = scratch.cellar('verify', archive, '--password-file', scratch.password);
      expect(checked.stdout).toMatch(/^Whole \(full\)/);
      const to = scratch.path('first-out');
      expect(
        scratch.cellar('unpack', archive, '--to', to, '--password-file', scratch.password).status,
      ).toBe(0);
      expect(scratch.shell(`diff -r '${source}' '${to}'`)).toBe('');
      rmSync(archive, { recursive: true });
    },
    KILLS_MS,
  );

  test(
    'at any moment of packing, pruning and sealing anew: what was committed opens, and the work goes on',
    async () => {
      const source = makeSource('more', 16);
      const archive = scratch.path('lived');
      const key = ['--identity-file', scratch.identity];
      const pack = ['pack', source, '--archive', archive];
      scratch.cellar(...pack, '--password-file', scratch.password, '--escrow', scratch.recipient);
      writeFileSync(`${source}/photographs/more.jpg`, randomBytes(6_000_000));
      const times = moments(timeOf(...pack, ...key));
      let kills = 0;
      for (let run = 0; kills < KILLS; run++) {
        const kind = run % 4;
        if (kind === 0) writeFileSync(`${source}/photographs/${run}.jpg`, randomBytes(6_000_000));
        const args = kind < 3 ? [...pack, ...key] : ['prune', archive, '--keep', 'latest', ...key];
        const ended = await scratch.killedAfter(times.next().value as number, ...args);
        if (!ended) kills += 1;
        expect(passesSha512sum(archive), `run ${run}`).toBe(true);
        expect(await isWhole(archive), `run ${run}`).toBe(true);
      }
      expect(scratch.cellar(...pack, ...key).status).toBe(0);
      expect(scratch.cellar('prune', archive, '--keep', 'latest', ...key).status).toBe(0);
      expect(scratch.cellar('verify', archive, ...key).stdout).toMatch(/^Whole \(full\)/);
      const to = scratch.path('more-out');
      expect(scratch.cellar('unpack', archive, '--to', to, ...key).status).toBe(0);
      expect(scratch.shell(`diff -r '${source}' '${to}'`)).toBe('');
      expect(readdirSync(archive)).not.toContain('pending');
    },
    KILLS_MS,
  );
});

describe('sealing anew under a new data key', () => {
  test('killed at any moment, opens with the old password or the new one, and never with neither', async () => {
    const source = makeSource('anew', 14);
    const archive = scratch.path('sealed-anew');
    const passwords = ['brass kettle seven moths', 'a lamp for the ferry'];
    const files = passwords.map((text, number) => {
      const path = scratch.path(`anew-${number}.txt`);
      writeFileSync(path, `${text}\n`);
      return path;
    });
    scratch.cellar('pack', source, '--archive', archive, '--password-file', files[0] ?? '');
    /** Which of the two opens it now. */
    const opensWith = async (): Promise<number> => {
      for (const [number, password] of passwords.entries()) {
        try {
          const open = await OpenArchive.open(archiveIn(archive), withPassword(password), {
            threads: 0,
          });
          const { whole } = await verifyOpen(open, { level: 'structure', threads: 0 });
          await open.close();
          expect(whole).toBe(true);
          return number;
        } catch (error) {
          expect(error).toMatchObject({ problem: { code: 'wrong-password' } });
        }
      }
      throw new Error('neither password opens it');
    };
    const rekey = (now: number) => [
      ...['rekey', archive, '--new-data-key', '--password-file', files[now] ?? ''],
      ...['--new-password-file', files[1 - now] ?? ''],
    ];
    const times = moments(timeOf(...rekey(0)));
    let now = 1;
    let kills = 0;
    for (let run = 0; run < 40 && kills < 3; run++) {
      const ended = await scratch.killedAfter(times.next().value as number, ...rekey(now));
      if (!ended) kills += 1;
      expect(passesSha512sum(archive), `run ${run}`).toBe(true);
      now = await opensWith();
    }
    expect(kills).toBe(3);
    const to = scratch.path('anew-out');
    scratch.cellar('unpack', archive, '--to', to, '--password-file', files[now] ?? '');
    expect(scratch.shell(`diff -r '${source}' '${to}'`)).toBe('');
  });
});

describe('memory', () => {
  const LIMIT = 250e6;
  /** The kernel's own record of the most memory that the command ever had, bytes. */
  const peakOf = (...args: string[]): number => {
    const watch = `import resource,subprocess,sys; code = subprocess.run(sys.argv[1:], stdout=subprocess.DEVNULL).returncode; print(code, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)`;
    const words = ['node', ...LIGHT, CELLAR, ...args].map((word) => `'${word}'`).join(' ');
    const [code, kilobytes] = scratch.shell(`python3 -c '${watch}' ${words}`).trim().split(' ');
    expect(code).toBe('0');
    return Number(kilobytes) * 1024;
  };

  test('does not grow with contents that compress well, nor with many small files', () => {
    const source = scratch.path('texts');
    for (const folder of ['notes', 'applications'])
      mkdirSync(`${source}/${folder}`, { recursive: true });
    const row = (n: number) =>
      `${n}|received|${(n * 7919) % 100_003}|+44 7700 900${n % 1000}|See you at ${n % 24};`;
    for (let file = 0; file < 4; file++) {
      const rows = Array.from({ length: 400_000 }, (_, n) => row(file * 400_000 + n));
      writeFileSync(`${source}/applications/${file}.db`, rows.join(''));
    }
    for (let n = 0; n < 3000; n++) writeFileSync(`${source}/notes/${n}.txt`, row(n).repeat(80));
    const archive = scratch.path('texts-archive');
    const key = ['--password-file', scratch.password];
    const file = scratch.path('texts.tar.age');
    expect(peakOf('pack', source, '--archive', archive, ...key)).toBeLessThan(LIMIT);
    expect(peakOf('verify', archive, ...key)).toBeLessThan(LIMIT);
    expect(peakOf('unpack', archive, '--to', scratch.path('texts-out'), ...key)).toBeLessThan(
      LIMIT,
    );
    expect(peakOf('export', archive, '--to', file, ...key)).toBeLessThan(LIMIT);
    expect(scratch.shell(`diff -r '${source}' texts-out`)).toBe('');
  });
});

describe('with ordinary tools', () => {
  let source: string;
  let archive: string;
  beforeAll(() => {
    source = makeSource('tools', 12);
    writeFileSync(`${source}/notes/Grüße an 山本.txt`, 'any script');
    scratch.shell(
      `ln -s ../photographs/1.jpg '${source}/notes/link'; touch -d '2026-01-02 03:04:05.678' '${source}/notes/1.txt'`,
    );
    archive = scratch.path('tools-archive');
    const made = scratch.cellar(
      'pack',
      source,
      '--archive',
      archive,
      '--password-file',
      scratch.password,
      '--escrow',
      scratch.recipient,
    );
    expect(made.status).toBe(0);
  });

  test('a key file opens with age: 32 bytes', () => {
    const bytes = scratch.shell(
      `age -d -i '${scratch.identity}' '${archive}'/data/keys/escrow-*.age | wc -c`,
    );
    expect(bytes.trim()).toBe('32');
  });

  test('a package opens with age and tar: names, times, links, checksums, and a page', () => {
    const file = scratch.path('p.tar.age');
    const done = scratch.cellar(
      'export',
      archive,
      '--to',
      file,
      '--password-file',
      scratch.password,
      '--recipient',
      scratch.recipient,
    );
    expect(done.stderr).toBe('');
    expect(done.status).toBe(0);
    scratch.shell(`mkdir opened && age -d -i '${scratch.identity}' '${file}' | tar x -C opened`);
    const top = scratch.path('opened', readdirSync(scratch.path('opened'))[0] ?? '');
    expect(scratch.shell(`diff -r --no-dereference '${source}' '${top}/contents'`)).toBe('');
    expect(scratch.shell(`cd '${top}' && b2sum -c --quiet checksums.b2`)).toBe('');
    const times = (folder: string) =>
      scratch.shell(`cd '${folder}' && find . -type f -printf '%P %T+ %m\\n' | sort`);
    expect(times(`${top}/contents`)).toBe(times(source));
    const page = readFileSync(`${top}/index.html`, 'utf8');
    expect(page).toContain('Grüße an 山本.txt');
    expect(page).toContain('<html lang="en">');
  });

  test('a package comes back in, and only whole: from this program, or sealed again by age', () => {
    const file = scratch.path('p.tar.age');
    const into = scratch.path('taken-in');
    const args = [
      '--archive',
      into,
      '--password-file',
      scratch.password,
      '--package-identity-file',
      scratch.identity,
    ];
    scratch.shell(
      `age -d -i '${scratch.identity}' '${file}' | age -r ${scratch.recipient} -o again.tar.age`,
    );
    const taken = scratch.cellar('import', scratch.path('again.tar.age'), ...args);
    expect(taken.stderr).toBe('');
    expect(taken.status).toBe(0);
    const to = scratch.path('taken-out');
    scratch.cellar('unpack', into, '--to', to, '--password-file', scratch.password);
    expect(scratch.shell(`diff -r --no-dereference '${source}' '${to}'`)).toBe('');

    scratch.shell(`head -c 5000000 '${file}' > cut.tar.age`);
    const bytes = readFileSync(file);
    bytes.writeUInt8(bytes.readUInt8(3_000_000) ^ 1, 3_000_000);
    writeFileSync(scratch.path('flipped.tar.age'), bytes);
    // Whoever has the key could change a file and seal it again: then its checksum tells.
    scratch.shell(
      `age -d -i '${scratch.identity}' '${file}' | sed 's/note 7 note 7/note 7 nota 7/' | age -r ${scratch.recipient} -o changed.tar.age`,
    );
    for (const name of ['cut.tar.age', 'flipped.tar.age', 'changed.tar.age']) {
      const refused = scratch.cellar('import', scratch.path(name), ...args, '--json');
      expect(refused.stderr).toBe('');
      expect(refused.status).toBe(1);
      expect(JSON.parse(refused.stdout.trim().split('\n').at(-1) ?? '')).toMatchObject({
        type: 'error',
        code: 'package-damaged',
      });
    }
    const { stdout } = scratch.cellar('list', into, '--password-file', scratch.password, '--json');
    expect(stdout.split('\n').filter((line) => line.includes('"type":"backup"'))).toHaveLength(1);
  });

  test('a pack’s compressed chunks are zstd: no byte of the contents stands in the clear', () => {
    expect(scratch.shell(`grep -rc 'note 1' '${archive}/data' | grep -v ':0' || true`)).toBe('');
  });
});

describe('the command line', () => {
  test('says how it ended: 0 whole, 1 damaged or wrong, 2 usage; and never takes a password as an argument', () => {
    const archive = scratch.path('tools-archive');
    writeFileSync(scratch.path('wrong.txt'), 'not this one\n');
    expect(scratch.cellar('--help').status).toBe(0);
    expect(scratch.cellar('unpack', archive).status).toBe(2);
    expect(scratch.cellar('nonsense').status).toBe(2);
    expect(scratch.cellar('verify', archive, '--level', 'full').status).toBe(2);
    const wrong = scratch.cellar('list', archive, '--password-file', scratch.path('wrong.txt'));
    expect(wrong.status).toBe(1);
    expect(wrong.stderr).toContain('The password does not open this backup.');
    const [file = ''] = readdirSync(`${archive}/data/packs`);
    const path = `${archive}/data/packs/${file}`;
    const bytes = readFileSync(path);
    bytes.writeUInt8(bytes.readUInt8(5000) ^ 1, 5000);
    writeFileSync(path, bytes);
    const damaged = scratch.cellar('verify', archive);
    expect(damaged.status).toBe(1);
    expect(damaged.stdout).toContain(`Damaged: data/packs/${file}`);
  });

  test('JSON lines hold progress and a result, and nothing else', () => {
    const { stdout } = scratch.cellar(
      'pack',
      scratch.path('tools'),
      '--archive',
      scratch.path('json'),
      '--password-file',
      scratch.password,
      '--json',
    );
    const lines = stdout
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as { type: string });
    expect(lines.at(-1)).toMatchObject({ type: 'packed', failed: 0, items: 309 });
    expect(lines.slice(0, -1).every(({ type }) => type === 'progress')).toBe(true);
  });
});

test('a package carries times before 1970 and after 2242, of links too, and no bit that lets a program run as another', () => {
  const source = scratch.path('times');
  mkdirSync(`${source}/notes`, { recursive: true });
  for (const name of ['old', 'new', 'plain']) writeFileSync(`${source}/notes/${name}`, name);
  scratch.shell(`
    cd '${source}/notes' && ln -s old link && chmod 6755 plain
    touch -h -d '1950-03-01 12:00:00.25 UTC' old
    touch -h -d '2300-01-01 00:00:00.5 UTC' new
    touch -h -d '1969-12-31 23:59:59.125 UTC' link
    touch -h -d '2026-01-01 00:00:00.123456 UTC' plain`);
  const secret = ['--password-file', scratch.password];
  const ok = (...args: string[]) => expect(scratch.cellar(...args).status, args[0]).toBe(0);
  ok('pack', source, '--archive', 'times-archive', ...secret);
  ok('export', 'times-archive', '--to', 'times.tar.age', ...secret);
  ok('import', 'times.tar.age', '--archive', 'times-again', ...secret);
  ok('unpack', 'times-again', '--to', 'times-out', ...secret);
  const exactly = (folder: string) =>
    scratch.shell(
      `cd '${folder}/notes' && find . -type f -printf '%P %T@ %m\\n' -o -type l -printf '%P %T@\\n' | sort`,
    );
  expect(exactly('times-out')).toBe(exactly(source).replace(' 6755', ' 755'));
});

test('with its newest list gone, an older backup is not passed off as the latest', () => {
  const source = scratch.path('latest');
  mkdirSync(source);
  writeFileSync(`${source}/a.txt`, 'first');
  const secret = ['--password-file', scratch.password];
  scratch.cellar('pack', source, '--archive', 'latest-archive', ...secret);
  const [older = ''] = readdirSync(scratch.path('latest-archive/data/backups'));
  writeFileSync(`${source}/a.txt`, 'second');
  scratch.cellar('pack', source, '--archive', 'latest-archive', ...secret);
  const lists = scratch.path('latest-archive/data/backups');
  for (const name of readdirSync(lists)) if (name !== older) rmSync(`${lists}/${name}`);
  for (const [command, to] of [
    ['unpack', 'latest-out'],
    ['export', 'latest.tar.age'],
  ] as const) {
    const { status, stderr } = scratch.cellar(command, 'latest-archive', '--to', to, ...secret);
    expect(status).not.toBe(0);
    expect(stderr).toMatch(/newest backup of this archive, of .* cannot be read/);
  }
  const asked = ['--backup', older.slice(0, 36), '--to', 'latest-older'];
  expect(scratch.cellar('unpack', 'latest-archive', ...asked, ...secret).status).toBe(0);
  expect(readFileSync(scratch.path('latest-older/a.txt'), 'utf8')).toBe('first');
});
