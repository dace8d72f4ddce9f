// @ts-check
import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { runMain, say, Sentence } from './lib/say.mjs';

/**
 * `npm run bench -- --folder DIR`: puts a folder on the bench of the running product as a device. An
 * empty folder is an empty device, and takes what is restored onto it. With `--large` it makes a large one first: more than
 * 200,000 messages and 50,000 photographs, for measuring.
 */
await runMain(async () => {
  const { values } = parseArgs({
    options: {
      folder: { type: 'string' },
      large: { type: 'boolean', default: false },
      name: { type: 'string' },
      berth: { type: 'string' },
      bench: { type: 'string', default: 'http://127.0.0.1:4681' },
    },
  });
  if (!values.folder) {
    throw new Sentence(
      'Usage: npm run bench -- --folder DIR [--large] [--name TEXT] [--berth N] [--bench http://127.0.0.1:4681]',
    );
  }
  const folder = resolve(values.folder);
  if (values.large && !existsSync(folder)) {
    say(`Making a large device in ${folder}: this takes some minutes, once.`);
    // As it was built, beside what its types are made from.
    const built = new URL('../packages/bench/dist/index.js', import.meta.url);
    const { generateContents, LARGE_SIZE } = await import(built.href);
    await generateContents(folder, 'a large one', { model: 'Fell 3', kind: 'phone' }, LARGE_SIZE);
  }
  const body = {
    folder,
    ...(values.name ? { name: values.name } : {}),
    ...(values.berth ? { berth: Number(values.berth) } : {}),
  };
  const response = await fetch(`${values.bench}/control/v1/devices`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  }).catch(() => {
    throw new Sentence(
      `No stand-in bench answers at ${values.bench}. Start the product first: npm run demo`,
    );
  });
  if (!response.ok) {
    throw new Sentence(
      `The bench did not take ${body.folder}: it must be a folder, and a berth must be free.`,
    );
  }
  const { facts } = await response.json();
  say(
    `${body.folder} is on berth ${facts.berth} as “${facts.name}”, serial ${facts.serial}, ${facts.empty ? 'empty' : 'with contents'}.`,
  );
});
