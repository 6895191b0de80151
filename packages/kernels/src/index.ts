export { Kernels, type PizLayout, type PizTables } from './kernels.ts';
