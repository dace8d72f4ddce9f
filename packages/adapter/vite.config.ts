import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';
import { nodeBundle } from '../../scripts/lib/node-bundle.mjs';

const main = fileURLToPath(new URL('dist/main.js', import.meta.url));
export default defineConfig(nodeBundle('dist', { program: main }));
