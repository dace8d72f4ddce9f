// @ts-check
import { fork, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import {
  cpSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { basename, join, relative, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import ts from 'typescript';
import { runMain, say, Sentence } from './lib/say.mjs';
import { ROOT } from './lib/setup.mjs';

/**
 * `npm run mutants -- PATH [--most N] [--seed N]`: changes one thing at a time in the sources below PATH, runs the unit tests
 * that reach it, and tells which changes no test noticed. The working tree itself is not touched.
 */
const USAGE = 'Usage: npm run mutants -- PATH [--most N] [--seed N]';

/** @typedef {{ file: string, from: number, to: number, text: string, line: number, what: string }} Mutant */

const swapped = new Map([
  [ts.SyntaxKind.EqualsEqualsEqualsToken, '!=='],
  [ts.SyntaxKind.ExclamationEqualsEqualsToken, '==='],
  [ts.SyntaxKind.LessThanToken, '<='],
  [ts.SyntaxKind.LessThanEqualsToken, '<'],
  [ts.SyntaxKind.GreaterThanToken, '>='],
  [ts.SyntaxKind.GreaterThanEqualsToken, '>'],
  [ts.SyntaxKind.AmpersandAmpersandToken, '||'],
  [ts.SyntaxKind.BarBarToken, '&&'],
  [ts.SyntaxKind.PlusToken, '-'],
  [ts.SyntaxKind.MinusToken, '+'],
  [ts.SyntaxKind.AsteriskToken, '/'],
]);

/** Every single change of a file. @param {string} file @returns {Mutant[]} */
function mutantsOf(file) {
  const source = ts.createSourceFile(
    file,
    readFileSync(file, 'utf8'),
    ts.ScriptTarget.Latest,
    true,
  );
  /** @type {Mutant[]} */
  const found = [];
  /** @param {ts.Node} node @param {string} text @param {string} what */
  const add = (node, text, what) => {
    const from = node.getStart(source);
    const line = source.getLineAndCharacterOfPosition(from).line + 1;
    found.push({ file, from, to: node.getEnd(), text, line, what });
  };
  /** @param {ts.Node} node */
  const visit = (node) => {
    // Types mean nothing when the program runs.
    if (ts.isTypeNode(node) || ts.isInterfaceDeclaration(node) || ts.isTypeAliasDeclaration(node))
      return;
    if (ts.isImportDeclaration(node)) return;
    if (ts.isBinaryExpression(node)) {
      const to = swapped.get(node.operatorToken.kind);
      const isText = to === '-' && /['"`]/.test(node.getText(source));
      if (to && !isText)
        add(node.operatorToken, to, `${node.operatorToken.getText(source)} became ${to}`);
    }
    if (node.kind === ts.SyntaxKind.TrueKeyword) add(node, 'false', 'true became false');
    if (node.kind === ts.SyntaxKind.FalseKeyword) add(node, 'true', 'false became true');
    if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken) {
      add(node, node.operand.getText(source), 'a “not” went');
    }
    if (ts.isNumericLiteral(node) && !ts.isPropertyAssignment(node.parent?.parent ?? node)) {
      add(node, `(${node.getText(source)} + 1)`, `${node.getText(source)} became one more`);
    }
    if (ts.isConditionalExpression(node)) {
      const [yes, no] = [node.whenTrue.getText(source), node.whenFalse.getText(source)];
      add(
        node,
        `${node.condition.getText(source)} ? ${no} : ${yes}`,
        'the two answers were swapped',
      );
    }
    if (ts.isIfStatement(node)) add(node.expression, 'false', 'the condition never holds');
    const isCall =
      ts.isExpressionStatement(node) &&
      ts.isCallExpression(
        ts.isAwaitExpression(node.expression) ? node.expression.expression : node.expression,
      );
    if (isCall) add(node, ';', `“${node.getText(source).slice(0, 40)}” went`);
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

/** @param {number} seed */
function randomFrom(seed) {
  let state = seed >>> 0;
  return (/** @type {number} */ below) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state % below;
  };
}

/** A copy of the repository that can be changed; its packages are the installed ones. */
function copyOfRepository() {
  const folder = mkdtempSync(join(tmpdir(), 'cellar-mutants-'));
  const { stdout } = spawnSync('git', ['ls-files', '-co', '--exclude-standard'], {
    cwd: ROOT,
    encoding: 'utf8',
  });
  for (const name of stdout.split('\n').filter(Boolean)) {
    if (/\.png$/.test(name)) continue;
    cpSync(join(ROOT, name), join(folder, name), { recursive: true });
  }
  // What a package's own tests import of it, they import by its place: that is the copy.
  symlinkSync(join(ROOT, 'node_modules'), join(folder, 'node_modules'));
  const own = join(ROOT, 'packages/web/node_modules');
  try {
    symlinkSync(own, join(folder, 'packages/web/node_modules'));
  } catch {
    // It has none of its own.
  }
  return folder;
}

/** A copy of the repository in which changes are tried one after the other. */
class Trial {
  /** How long the tests of each file take with no change, in ms. */
  #usualMs = new Map();
  #folder = copyOfRepository();
  /** @type {import('node:child_process').ChildProcess | null} */
  #runner = null;

  async #running() {
    if (this.#runner) return this.#runner;
    const runner = fork(join(ROOT, 'scripts/lib/mutant-runner.mjs'), [], {
      cwd: this.#folder,
      // The same inputs for every change: otherwise luck decides.
      env: { ...process.env, FUZZ_SEED: '4680' },
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
      detached: true,
    });
    this.#runner = runner;
    runner.once('exit', () => (this.#runner = null));
    await once(runner, 'message');
    return runner;
  }

  /** @param {Mutant} mutant @returns {Promise<boolean>} whether a test noticed it */
  async notices(mutant) {
    const { file } = mutant;
    if (!this.#usualMs.has(file)) {
      const began = Date.now();
      const failing = await this.#try({ file, from: 0, to: 0, text: '' }, 600_000);
      if (failing) throw new Sentence(`The tests of ${relative(ROOT, file)} fail with no change.`);
      this.#usualMs.set(file, Date.now() - began);
    }
    // A change that makes a test hang was noticed.
    return this.#try(mutant, 10_000 + 5 * this.#usualMs.get(file));
  }

  /** @param {Pick<Mutant, 'file' | 'from' | 'to' | 'text'>} mutant @param {number} atMostMs */
  async #try({ file, from, to, text }, atMostMs) {
    const runner = await this.#running();
    const inside = join(this.#folder, relative(ROOT, file));
    const over = new AbortController();
    const late = setTimeout(() => this.#kill(), atMostMs);
    const answered = once(runner, 'message', { signal: over.signal });
    const died = once(runner, 'exit', { signal: over.signal });
    runner.send({ file: inside, from, to, text });
    const [answer] = await Promise.race([answered, died]);
    clearTimeout(late);
    over.abort();
    await Promise.allSettled([answered, died]);
    // Whoever was killed in the middle left its change behind.
    if (!this.#runner) writeFileSync(inside, readFileSync(file));
    return answer?.noticed ?? true;
  }

  #kill() {
    if (this.#runner?.pid) process.kill(-this.#runner.pid, 'SIGKILL');
  }

  end() {
    this.#kill();
    rmSync(this.#folder, { recursive: true, force: true });
  }
}

await runMain(async () => {
  let parsed;
  try {
    parsed = parseArgs({
      allowPositionals: true,
      options: {
        most: { type: 'string', default: '100000' },
        seed: { type: 'string', default: '1' },
      },
    });
  } catch {
    throw new Sentence(USAGE);
  }
  const [path] = parsed.positionals;
  if (!path) throw new Sentence(USAGE);
  const whole = resolve(path);
  const { stdout } = statSync(whole).isDirectory()
    ? spawnSync('git', ['ls-files', whole], { cwd: ROOT, encoding: 'utf8' })
    : { stdout: relative(ROOT, whole) };
  const files = stdout
    .split('\n')
    .filter((name) => /\.ts$/.test(name) && !/\.(?:test|d)\.ts$|test-|\/index\.ts$/.test(name))
    .map((name) => join(ROOT, name));
  const random = randomFrom(Number(parsed.values.seed));
  const all = files.flatMap(mutantsOf);
  while (all.length > Number(parsed.values.most)) all.splice(random(all.length), 1);
  say(`${all.length} changes in ${files.length} files`);
  const counts = new Map(files.map((file) => [file, { made: 0, noticed: 0 }]));
  await Promise.all(
    Array.from({ length: availableParallelism() }, async () => {
      const trial = new Trial();
      try {
        for (let mutant = all.shift(); mutant; mutant = all.shift()) {
          const count = counts.get(mutant.file);
          if (!count) continue;
          count.made += 1;
          if (await trial.notices(mutant)) count.noticed += 1;
          else say(`not noticed: ${relative(ROOT, mutant.file)}:${mutant.line} ${mutant.what}`);
        }
      } finally {
        trial.end();
      }
    }),
  );
  let [made, noticed] = [0, 0];
  for (const [file, count] of counts) {
    if (count.made === 0) continue;
    made += count.made;
    noticed += count.noticed;
    say(`${basename(file)}: ${count.noticed} of ${count.made}`);
  }
  say(`Noticed: ${noticed} of ${made}, ${((100 * noticed) / Math.max(1, made)).toFixed(1)} %`);
});
