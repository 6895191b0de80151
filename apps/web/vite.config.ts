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

/** What the start page consists of is asked for with the first files, not after they have run: its modules, and the two fonts that it is set in. */
function startAtOnce(): Plugin {
  return {
    name: 'start-at-once',
    apply: 'build',
    transformIndexHtml: {
      order: 'post',
      handler: (html, { bundle = {} }) => {
        const files = Object.values(bundle);
        const start = files.find((file) => file.type === 'chunk' && file.facadeModuleId?.endsWith('/start-page.tsx'));
        const fonts = FONTS.map((name) => files.find((file) => file.type === 'asset' && name.test(file.fileName)));
        if (start?.type !== 'chunk' || fonts.includes(undefined)) throw new Error('The start page or a font of it is not where it was.');
        const known = new Set<string>();
        const take = (fileName: string) => {
          const file = bundle[fileName];
          if (known.has(fileName) || file?.type !== 'chunk') return;
          known.add(fileName);
          file.imports.forEach(take);
        };
        take(start.fileName);
        const modules = [...known].filter((name) => !html.includes(name)).map((name) => ({ tag: 'link', attrs: { rel: 'modulepreload', crossorigin: true, href: `/${name}` }, injectTo: 'head' as const }));
        return [...modules, ...fonts.map((font) => ({ tag: 'link', attrs: { rel: 'preload', as: 'font', type: 'font/woff2', crossorigin: true, href: `/${font?.fileName}` }, injectTo: 'head' as const }))];
      },
    },
  };
}
const FONTS = [/archivo-latin-wdth-normal.*\.woff2$/, /ibm-plex-mono-latin-400-normal.*\.woff2$/];

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
  plugins: [react(), tailwindcss(), reviewFile(), startAtOnce(), keptOffline()],
  worker: { format: 'es' },
  build: { target: 'chrome120', assetsInlineLimit: 0, chunkSizeWarningLimit: 1200, rolldownOptions: { output: { codeSplitting: { groups: [{ name: 'shared', minShareCount: 2, minSize: 0 }] } } } },
  server: { headers: isolation },
  preview: { headers: isolation },
});
