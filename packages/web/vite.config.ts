import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const api = process.env['CELLAR_API'] ?? 'http://127.0.0.1:4680';

export default defineConfig({
  plugins: [react(), tailwindcss()],
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
