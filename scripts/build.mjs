// @ts-check
import { join } from 'node:path';
import { build } from 'vite';
import { runMain } from './lib/say.mjs';
import { ROOT, runBeside } from './lib/setup.mjs';

/** `npm run build`: pages are made from the sources, programs from what the compiler wrote, the ones beside the others. */

/** All in one process: to start one for each takes longer than what it does. */
const programs = ['archive', 'cli', 'server', 'adapter', 'bench'];

await runMain(async () => {
  const makePrograms = async () => {
    await runBeside('npm', ['run', '--silent', 'typecheck']);
    for (const name of programs) await build({ root: join(ROOT, 'packages', name) });
  };
  const makePages = () =>
    runBeside('npm', ['run', '--silent', 'build', '--workspace', '@bright-cellar/web']);
  const ends = await Promise.allSettled([makePrograms(), makePages()]);
  for (const end of ends) if (end.status === 'rejected') throw end.reason;
});
