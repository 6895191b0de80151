import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { build, defineConfig, type Plugin } from 'vite';

// Shared memory is only granted to isolated pages.
const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
};

const SERVICE_WORKER = 'service-worker.js';

/** The service worker, with the list of all files that it keeps. */
function keptOffline(): Plugin {
  let folder = '';
  return {
    name: 'kept-offline',
    apply: 'build',
    configResolved({ root, build }) {
      folder = join(root, build.outDir);
    },
    buildStart() {
      this.emitFile({ type: 'chunk', id: join(import.meta.dirname, 'src/offline/service-worker.ts'), fileName: SERVICE_WORKER });
    },
    closeBundle: {
      order: 'post',
      handler: () => {
        const names = readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((entry) => (entry.isFile() && !entry.name.startsWith('.') && entry.name !== SERVICE_WORKER ? [join(entry.parentPath, entry.name)] : []));
        const files = names.map((name) => {
          const path = name.slice(folder.length).replaceAll('\\', '/');
          return { path, hash: createHash('sha256').update(readFileSync(name)).digest('hex'), isDemo: path.startsWith('/demo/') };
        });
        const worker = join(folder, SERVICE_WORKER);
        const code = readFileSync(worker, 'utf8');
        const made = code.replace(/(['"`])__APP_FILES__\1/, () => JSON.stringify(JSON.stringify(files)));
        if (made === code) throw new Error('The service worker has no place for its list of files.');
        writeFileSync(worker, made);
      },
    },
  };
}

/** The page of a review that is sent as a file: one document with everything in it, since a page that is opened from a folder may load nothing but pictures and plain scripts. */
function reviewFile(): Plugin {
  return {
    name: 'review-file',
    apply: 'build',
    async buildStart() {
      const made = await build({
        root: import.meta.dirname,
        configFile: false,
        publicDir: false,
        logLevel: 'warn',
        plugins: [react(), tailwindcss()],
        build: { target: 'chrome120', write: false, assetsInlineLimit: Number.MAX_SAFE_INTEGER, cssCodeSplit: false, modulePreload: false, chunkSizeWarningLimit: 1200, rolldownOptions: { input: join(import.meta.dirname, 'review-file.html'), output: { codeSplitting: false } } },
      });
      const output = (Array.isArray(made) ? made : [made]).flatMap((each) => ('output' in each ? each.output : []));
      const sourceOf = (ending: string) => {
        const found = output.find(({ fileName }) => fileName.endsWith(ending));
        if (!found) throw new Error(`The page of a review has no ${ending}.`);
        return found.type === 'chunk' ? found.code : String(found.source);
      };
      const page = sourceOf('.html')
        .replace(/\s*<script type="module"[^>]*><\/script>/, '')
        .replace(/\s*<link rel="stylesheet"[^>]*>/, () => `\n    <style>${sourceOf('.css').replaceAll('</style', '<\\/style')}</style>`)
        .replace('</body>', () => `  <script type="module">${sourceOf('.js').replaceAll('</script', '<\\/script')}</script>\n  </body>`);
      this.emitFile({ type: 'asset', fileName: 'review-file.html', source: page });
    },
  };
}

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwindcss(), reviewFile(), keptOffline()],
  worker: { format: 'es' },
  build: { target: 'chrome120', assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
  server: { headers: isolation },
  preview: { headers: isolation },
});
