import { defineConfig } from 'vite';
import { nodeBundle, threadsIn } from '../../scripts/lib/node-bundle.mjs';

export default defineConfig(nodeBundle('dist/threads', threadsIn()));
