// Builds what is older than its sources. `node scripts/build.mjs [kernels|node|web …]`, all by default.
import { copyFileSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { mustRun, root } from './lib/run.mjs';
import { isStale, touch } from './lib/stale.mjs';

const at = (path) => join(root, path);
const kernelsWasm = at('packages/kernels/build/kernels.wasm');

const targets = {
  kernels: {
    inputs: ['packages/kernels/assembly', 'package-lock.json'],
    stamp: 'packages/kernels/build/.built',
    build: async () => {
      mkdirSync(at('packages/kernels/build'), { recursive: true });
      const flags = ['--enable', 'simd', '--runtime', 'stub', '--noAssert', '-O3', '--converge', '--importMemory', '--maximumMemory', '65536', '--initialMemory', '1'];
      await mustRun('npx', ['asc', 'packages/kernels/assembly/index.ts', '-o', kernelsWasm, ...flags]);
    },
  },
  node: {
    inputs: ['packages', 'apps/cli/src', 'apps/server/src', 'scripts/build.mjs', 'package-lock.json'],
    stamp: 'apps/cli/dist/.built',
    build: async () => {
      const { build } = await import('esbuild');
      const common = { bundle: true, platform: 'node', format: 'esm', target: 'node20', sourcemap: true, logLevel: 'warning', absWorkingDir: root };
      // Packages that were written for require() find it here.
      const banner = { js: "import { createRequire as tazzelRequire } from 'node:module'; const require = tazzelRequire(import.meta.url);" };
      await build({ ...common, banner, entryPoints: { tazzel: 'apps/cli/src/main.ts', worker: 'packages/engine/src/node-worker.ts', 'render-worker': 'packages/renderer/src/node-worker.ts' }, outdir: 'apps/cli/dist', outExtension: { '.js': '.mjs' } });
      // Our own packages are sources; everything else is there, installed.
      await build({ ...common, external: ['express', 'express-rate-limit', 'helmet', 'yup'], entryPoints: { server: 'apps/server/src/main.ts' }, outdir: 'apps/server/dist', outExtension: { '.js': '.mjs' } });
      copyFileSync(kernelsWasm, at('apps/cli/dist/kernels.wasm'));
      const codecs = { 'jpeg-decoder': 'jpeg/codec/dec/mozjpeg_dec', 'jpeg-encoder': 'jpeg/codec/enc/mozjpeg_enc', 'webp-decoder': 'webp/codec/dec/webp_dec', 'webp-encoder': 'webp/codec/enc/webp_enc_simd' };
      for (const [name, path] of Object.entries(codecs)) copyFileSync(at(`node_modules/@jsquash/${path}.wasm`), at(`apps/cli/dist/${name}.wasm`));
    },
  },
  web: {
    inputs: ['packages', 'apps/web', 'package-lock.json'],
    stamp: 'apps/web/dist/.built',
    build: () => mustRun('npx', ['vite', 'build', 'apps/web', '--logLevel', 'warn']),
  },
};

export async function build(names = Object.keys(targets)) {
  for (const name of names) {
    const { inputs, stamp, build: make } = targets[name];
    if (!isStale(at(stamp), inputs.map(at))) continue;
    const start = Date.now();
    await make();
    touch(at(stamp));
    console.log(`Built ${name} in ${((Date.now() - start) / 1000).toFixed(1)} s.`);
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await build(process.argv.length > 2 ? ['kernels', ...process.argv.slice(2)] : undefined);
