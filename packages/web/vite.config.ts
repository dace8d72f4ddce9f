import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';
import { defineConfig } from 'vite';

const api = process.env['CELLAR_API'] ?? 'http://127.0.0.1:4680';

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    // Once, as small as it gets: the server only hands it out. Fonts are compressed already.
    compression({
      include: /\.(js|css|svg)$/,
      threshold: 1000,
      algorithms: [defineAlgorithm('brotliCompress'), defineAlgorithm('gzip')],
    }),
  ],
  resolve: { conditions: ['source', 'module', 'browser', 'development|production'] },
  build: {
    outDir: 'dist/site',
    emptyOutDir: true,
    // The word lists of the password estimator, fetched only when a password is typed.
    chunkSizeWarningLimit: 2600,
    assetsInlineLimit: 0,
  },
  server: { proxy: { '/api': { target: api, changeOrigin: true } } },
});
