import { constants } from 'node:zlib';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';
import { defineConfig } from 'vite';

const COMPRESSED = /\.(js|css|svg)$/;
const brotli = (quality: number) =>
  defineAlgorithm('brotliCompress', { params: { [constants.BROTLI_PARAM_QUALITY]: quality } });
/** Large, and fetched by few pages: a tenth smaller would take most of the time of a build. */
const RARE = /\b(?:strength|pdf\.worker|place-map-drawn|chart)\b[^/]*\.js$/;

/** Compressing takes most of a build, as it is meant to. */
const checks = { bundlerTimings: false };

const api = process.env['CELLAR_API'] ?? 'http://127.0.0.1:4680';

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    // Once: the server only hands it out. The fiftieth part that is still in it takes twice as long. Fonts are compressed already.
    compression({
      ...{ include: COMPRESSED, exclude: RARE, threshold: 1000 },
      algorithms: [brotli(10), defineAlgorithm('gzip')],
    }),
    compression({ include: RARE, algorithms: [brotli(9), defineAlgorithm('gzip')] }),
  ],
  resolve: { conditions: ['source', 'module', 'browser', 'development|production'] },
  build: {
    outDir: 'dist/site',
    emptyOutDir: true,
    // The word lists of the password estimator, fetched only when a password is typed.
    chunkSizeWarningLimit: 2600,
    assetsInlineLimit: 0,
    rolldownOptions: { checks },
  },
  worker: { rolldownOptions: { checks } },
  server: { proxy: { '/api': { target: api, changeOrigin: true } } },
});
