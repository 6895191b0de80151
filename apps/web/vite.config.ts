import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

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

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwindcss(), keptOffline()],
  worker: { format: 'es' },
  build: { target: 'chrome120', assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
  server: { headers: isolation },
  preview: { headers: isolation },
});
