import { createHash } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { createLogger, defineConfig, type Plugin } from 'vite';
import { viteSingleFile } from 'vite-plugin-singlefile';

const PAGE = 'dist/stick/stick.html';

/** The page may run and show what is in it, and nothing else; it may ask nobody for anything. */
const closed = (): Plugin => ({
  name: 'closed-page',
  // Once it is one file: what is allowed to run is told by its hash.
  async writeBundle() {
    const html = await readFile(PAGE, 'utf8');
    const hashOf = (tag: string) => {
      const [, text = ''] = new RegExp(`<${tag}\\b[^>]*>([^]*?)</${tag}>`).exec(html) ?? [];
      return `'sha256-${createHash('sha256').update(text).digest('base64')}'`;
    };
    const policy = [
      "default-src 'none'",
      `script-src ${hashOf('script')} blob:`,
      'worker-src blob:',
      // Charts and lists that scroll place what they draw by styles of elements.
      "style-src 'unsafe-inline'",
      'font-src data:',
      'img-src blob: data:',
      'media-src blob:',
      "base-uri 'none'",
      "form-action 'none'",
    ].join('; ');
    const meta = `<meta http-equiv="Content-Security-Policy" content="${policy}" />`;
    const [before = '', ...after] = html.split('<meta charset="utf-8" />');
    await writeFile(PAGE, `${before}<meta charset="utf-8" />\n    ${meta}${after.join('')}`);
  },
});

const logger = createLogger('warn');
const { warn } = logger;
logger.warn = (text, options) => {
  // It means the pages that this page writes, which carry rules of their own.
  if (!text.includes('The Content-Security-Policy meta tag does not allow')) warn(text, options);
};

/** The page of a stick as one file: no server, no network, from wherever it lies. */
export default defineConfig({
  customLogger: logger,
  plugins: [react(), tailwindcss(), viteSingleFile({ removeViteModuleLoader: true }), closed()],
  resolve: {
    conditions: ['source', 'module', 'browser', 'development|production'],
    // Its own bundle for browsers: nothing of Node is looked for.
    alias: [
      { find: 'xmlbuilder2', replacement: 'xmlbuilder2/lib/xmlbuilder2.min.js' },
      // What draws pages is inside as well.
      {
        find: /^\.\/pdf-worker\.js$/,
        replacement: join(import.meta.dirname, 'src/stick/pdf-worker.ts'),
      },
    ],
  },
  worker: { format: 'iife', rollupOptions: { checks: { bundlerTimings: false } } },
  publicDir: false,
  build: {
    outDir: 'dist/stick',
    emptyOutDir: true,
    rollupOptions: { input: 'stick.html', checks: { bundlerTimings: false } },
    chunkSizeWarningLimit: 20_000,
  },
});
