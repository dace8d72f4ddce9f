#!/usr/bin/env node
import { existsSync } from 'node:fs';

const built = new URL('../dist/bundle/cli/main.js', import.meta.url);
if (existsSync(built)) await import(built.href);
else {
  process.stderr.write('cellar is not built yet. Type: npm run build\n');
  process.exitCode = 2;
}
