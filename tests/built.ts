/** What `node scripts/build.mjs` made: kernels and worker, as the product runs them. */
import { readFileSync } from 'node:fs';
import { Kernels } from '@tazzel/kernels';
import { startNodeEngine } from '@tazzel/engine/node';

const dist = new URL('../apps/cli/dist/', import.meta.url);
export const builtKernels = async (): Promise<Kernels> => Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist))));
export const builtEngine = (options: { workers?: number; budgetBytes?: number; keptBytes?: number; onRestart?: (sentence: string) => void } = {}) => startNodeEngine({ workers: 2, workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist), ...options });
