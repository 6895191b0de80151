import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

// Shared memory is only granted to isolated pages.
const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
};

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwindcss()],
  worker: { format: 'es' },
  build: { target: 'chrome120', assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
  server: { headers: isolation },
  preview: { headers: isolation },
});
