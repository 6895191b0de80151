export type { PizLayout, PizTables } from './codecs.ts';
export { Kernels } from './kernels.ts';
export { RAY_BLOCK_BYTES, RAY_BLOCKS_IN_LEAF, RAY_NODE_BYTES, RayKernel } from './rays.ts';
