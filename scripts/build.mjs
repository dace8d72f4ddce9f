// @ts-check
import { build } from 'vite';
import { bundles } from './lib/node-bundle.mjs';
import { runMain } from './lib/say.mjs';
import { runBeside } from './lib/setup.mjs';

/** `npm run build`: pages are made from the sources, programs from what the compiler wrote, the ones beside the others. */

await runMain(async () => {
  const makePrograms = async () => {
    await runBeside('npm', ['run', '--silent', 'typecheck']);
    // All in one process: to start one for each takes longer than what it does.
    for (const one of bundles) await build(one);
  };
  const makePages = () =>
    runBeside('npm', ['run', '--silent', 'build', '--workspace', '@bright-cellar/web']);
  const ends = await Promise.allSettled([makePrograms(), makePages()]);
  for (const end of ends) if (end.status === 'rejected') throw end.reason;
});
