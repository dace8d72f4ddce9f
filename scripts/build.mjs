// @ts-check
import { runMain } from './lib/say.mjs';
import { runBeside } from './lib/setup.mjs';

/** `npm run build`: pages are made from the sources, programs from what the compiler wrote, the ones beside the others. */

/** @param {string[]} packages one after the other */
const build = (...packages) =>
  runBeside('npm', [
    ...['run', '--silent', 'build'],
    ...packages.flatMap((name) => ['--workspace', `@bright-cellar/${name}`]),
  ]);

await runMain(async () => {
  const programs = async () => {
    await runBeside('npm', ['run', '--silent', 'typecheck']);
    await build('archive', 'cli', 'server', 'adapter', 'bench');
  };
  const ends = await Promise.allSettled([programs(), build('web')]);
  for (const end of ends) if (end.status === 'rejected') throw end.reason;
});
